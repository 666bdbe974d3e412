/* A board with coils over Modbus TCP, for the machine that package.sh boots:
 * coils PORT FILE keeps those that are on in FILE, as "0 3". */
#include <modbus/modbus.h>
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#define COILS 8

static void note(const modbus_mapping_t *map, const char *path)
{
    char fresh[200];
    snprintf(fresh, sizeof(fresh), "%s.new", path);
    FILE *out = fopen(fresh, "w");
    if (!out)
        exit(1);
    for (int i = 0; i < COILS; i++)
        if (map->tab_bits[i])
            fprintf(out, "%d ", i);
    if (fclose(out) != 0 || rename(fresh, path) != 0)
        exit(1);
}

int main(int argc, char **argv)
{
    if (argc != 3)
        return 2;
    modbus_t *board = modbus_new_tcp("127.0.0.1", atoi(argv[1]));
    modbus_mapping_t *map = modbus_mapping_new(COILS, 0, 0, 0);
    int listens = board ? modbus_tcp_listen(board, 4) : -1;
    if (!map || listens < 0)
        return 1;
    note(map, argv[2]);
    while (modbus_tcp_accept(board, &listens) >= 0) {
        uint8_t asked[MODBUS_TCP_MAX_ADU_LENGTH];
        int got;
        while ((got = modbus_receive(board, asked)) >= 0)
            if (got > 0) {
                modbus_reply(board, asked, got, map);
                note(map, argv[2]);
            }
        modbus_close(board);
    }
    return 1;
}
