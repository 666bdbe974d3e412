/* Any bytes over the local socket of a site, a pass after each turn: what comes
 * back is lines of JSON, at most so many bytes wait, and the peer that comes
 * after is heard. */
#include <jansson.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include "../../sitefile/sitefile.h"
#include "../../socket/desk.h"
#include "bytes.h"

static char path[60];
static uint64_t now_ms;

static struct desk *begin(struct cup_site *site)
{
    static struct cup_file *file;
    static uint32_t state[2048];
    char wrong[100];
    file = cup_file_read("tests/command/one_bed.ini");
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan || cup_site_bind(site, plan, state, sizeof(state)))
        abort();
    snprintf(path, sizeof(path), "/tmp/cup_fuzz_desk.%d", (int)getpid());
    const struct view_about about = {
        .name = "bed", .id = "bed", .speakers = "keeper"};
    struct desk *desk = desk_open(path, site, &about, wrong, sizeof(wrong));
    if (!desk)
        abort();
    return desk;
}

static int dial(void)
{
    struct sockaddr_un address = {.sun_family = AF_UNIX};
    int fd = socket(AF_UNIX, SOCK_STREAM, 0);
    snprintf(address.sun_path, sizeof(address.sun_path), "%s", path);
    if (fd < 0 || connect(fd, (struct sockaddr *)&address, sizeof(address)))
        abort();
    return fd;
}

static void turn(struct desk *desk)
{
    now_ms += 1000;
    desk_turn(desk, (uint32_t)now_ms, now_ms);
    desk_passed(desk, (uint32_t)now_ms, now_ms, true);
    desk_turn(desk, (uint32_t)now_ms, now_ms);
}

/* Each line that came is JSON; whether there was any. */
static bool read_lines(int fd)
{
    static char text[600000];
    ssize_t got = recv(fd, text, sizeof(text) - 1, MSG_DONTWAIT);
    if (got <= 0)
        return false;
    text[got] = '\0';
    for (char *at = text; *at;) {
        char *end = strchr(at, '\n');
        if (!end)
            break; /* the rest waits */
        json_t *line = json_loadb(at, (size_t)(end - at), 0, NULL);
        if (!json_is_object(line))
            abort();
        json_decref(line);
        at = end + 1;
    }
    return true;
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static struct desk *desk;
    static struct cup_site site;
    if (!desk)
        desk = begin(&site);
    int fd = dial();
    (void)!send(fd, bytes, count, MSG_DONTWAIT | MSG_NOSIGNAL);
    for (int i = 0; i < 4; i++)
        turn(desk);
    read_lines(fd);
    close(fd);
    fd = dial();
    if (send(fd, "{\"ask\":[\"alerts\"]}\n", 19, 0) != 19)
        abort();
    turn(desk);
    if (!read_lines(fd))
        abort();
    close(fd);
    turn(desk);
    return 0;
}
