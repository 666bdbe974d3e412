/* cuplatch look --live: a running site, full screen; keys tell it things, asked
 * once more before they are done. */
#include <locale.h>
#include <ncurses.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../common/cli.h"
#include "../common/reach.h"
#include "frame.h"
#include "live.h"

struct live {
    struct client *client;
    struct heard heard;
    struct frame frame;
    int chosen;
    int top;        /* the first line that is shown */
    char word[80];  /* asked whether to tell it; empty: nothing is */
    char said[200]; /* what came of the last */
};

static void take_lines(struct live *live, int wait_ms)
{
    json_t *line;
    while ((line = client_hear(live->client, wait_ms))) {
        const json_t *error = json_object_get(line, "error");
        if (json_object_get(line, "done"))
            snprintf(live->said, sizeof(live->said), "%s",
                     error ? json_string_value(error) : "done");
        heard_take(&live->heard, line);
        json_decref(line);
        wait_ms = 0;
    }
    live->heard.gone = client_is_gone(live->client);
}

/* Without a screen: one frame, once all of it was heard. */
static int print_frame(struct live *live)
{
    for (int tries = 0; tries < 50 && !live->heard.gone &&
                        json_object_size(live->heard.now) == 0;
         tries++)
        take_lines(live, 200);
    if (json_object_size(live->heard.now) == 0) {
        fprintf(stderr, "cuplatch: the controller said nothing\n");
        return EXIT_OUTSIDE;
    }
    frame_draw(&live->frame, &live->heard, 100, -1);
    for (int i = 0; i < live->frame.count; i++)
        printf("%s\n", live->frame.lines[i].text);
    return EXIT_DONE;
}

static void set_look(enum frame_look look)
{
    attrset(look == LOOK_TITLE    ? A_BOLD
            : look == LOOK_ALERT  ? A_BOLD | COLOR_PAIR(1)
            : look == LOOK_DIM    ? A_DIM
            : look == LOOK_RUNS   ? A_BOLD | COLOR_PAIR(2)
            : look == LOOK_CHOSEN ? A_REVERSE
                                  : A_NORMAL);
}

/* The chosen line is always in sight; the last line is for keys and answers. */
static void show(struct live *live)
{
    int height = LINES > 2 ? LINES - 1 : 1;
    frame_draw(&live->frame, &live->heard, COLS, live->chosen);
    if (live->frame.chosen >= live->top + height)
        live->top = live->frame.chosen - height + 1;
    if (live->frame.chosen >= 0 && live->frame.chosen < live->top)
        live->top = live->frame.chosen;
    if (live->chosen == 0)
        live->top = 0;
    erase();
    for (int i = 0; i < height && live->top + i < live->frame.count; i++) {
        const struct frame_line *line = &live->frame.lines[live->top + i];
        set_look(line->look);
        mvaddstr(i, 0, line->text);
    }
    attrset(A_REVERSE);
    move(LINES - 1, 0);
    if (*live->word)
        printw(" tell \"%s\"? y: yes, any other: no ", live->word);
    else
        printw(
            " up down: choose   h hand 5m   o off   a auto   c clear   q end "
            "  %s ",
            live->said);
    attrset(A_NORMAL);
    refresh();
}

static void ask_first(struct live *live, const char *verb)
{
    const char *pump = frame_pump(&live->heard, live->chosen);
    if (pump)
        snprintf(live->word, sizeof(live->word), "%s %s", pump, verb);
}

static void answer(struct live *live, int key)
{
    live->said[0] = '\0';
    if (key == 'y')
        client_say(live->client,
                   json_pack("{s:i, s:[s]}", "id", 1, "tell", live->word));
    live->word[0] = '\0';
}

/* False when it is to end. */
static bool take_key(struct live *live, int key)
{
    if (*live->word) {
        answer(live, key);
        return true;
    }
    switch (key) {
    case 'q':
        return false;
    case KEY_DOWN:
        live->chosen += frame_pump(&live->heard, live->chosen + 1) != NULL;
        break;
    case KEY_UP:
        live->chosen -= live->chosen > 0;
        break;
    case 'h':
        ask_first(live, "hand 5m");
        break;
    case 'o':
        ask_first(live, "off");
        break;
    case 'a':
        ask_first(live, "auto");
        break;
    case 'c':
        ask_first(live, "clear");
        break;
    default:
        break;
    }
    return true;
}

static void on_screen(struct live *live)
{
    const volatile int *stop = stop_flag();
    bool goes_on = true;
    setlocale(LC_ALL, "");
    if (!newterm(NULL, stdout, stdin))
        return;
    cbreak();
    noecho();
    keypad(stdscr, TRUE);
    nodelay(stdscr, TRUE);
    curs_set(0);
    if (has_colors() && start_color() == OK) {
        use_default_colors();
        init_pair(1, COLOR_YELLOW, -1);
        init_pair(2, COLOR_CYAN, -1);
    }
    while (goes_on && !*stop) {
        struct pollfd fds[] = {{client_fd(live->client), POLLIN, 0},
                               {STDIN_FILENO, POLLIN, 0},
                               {stop_fd(), POLLIN, 0}};
        int key;
        show(live);
        poll(fds + live->heard.gone, 3 - (nfds_t)live->heard.gone, 1000);
        if (!live->heard.gone)
            take_lines(live, 0);
        while (goes_on && (key = getch()) != ERR)
            goes_on = take_key(live, key);
    }
    endwin();
}

int live_look(const char *socket, bool once)
{
    int code = EXIT_DONE;
    struct live *live = calloc(1, sizeof(*live));
    if (!live)
        abort();
    live->client = client_reach(socket);
    if (!live->client) {
        free(live);
        return EXIT_OUTSIDE;
    }
    /* what happened before tells how things came to be */
    client_say(live->client, json_pack("{s:{s:i}}", "follow", "since", -1));
    if (once || !isatty(STDOUT_FILENO))
        code = print_frame(live);
    else
        on_screen(live);
    heard_free(&live->heard);
    client_close(live->client);
    free(live);
    return code;
}
