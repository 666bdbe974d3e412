/* Time, least and saturation alone. */
#include "time.h"
