/* Every block but those that need values of each sample, or wide ones. */
#define CUP_USES_AIR 0
#define CUP_USES_CHECKS 0
#define CUP_USES_FAILS 0
#define CUP_USES_FLOATS 0
#define CUP_USES_LAMPS 0
#define CUP_USES_MEANS 0
#define CUP_USES_PRESSURES 0
#define CUP_USES_SETTINGS 0
#define CUP_USES_SEVERAL 0
#define CUP_USES_SPANS 0
#define CUP_USES_SPEEDS 0
#define CUP_USES_SLACK 0
#define CUP_USES_VALUES 0
#define CUP_USES_VOLUMES 0
#define CUP_USES_WIDE 0
