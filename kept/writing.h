/* What the writer's two ends share: the notes that are handed over, and what is
 * answered. */
#ifndef CUPLATCH_KEPT_WRITING_H
#define CUPLATCH_KEPT_WRITING_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "cuplatch/journal.h"
#include "keeps.h"

/* Those of the journal, and of the record of what people chose. */
#define SLOTS_ALL 5
#define WRONG_SIZE 1000
#define ROW_MOST 40000

enum note_kind { NOTE_SLOT, NOTE_EVENT, NOTE_HEAD, NOTE_ROW };

/* What the process answers: a slot is kept or not, a row was lost. */
enum answer { ANSWER_NOT_KEPT, ANSWER_KEPT, ANSWER_ROW_LOST };

/* What is handed over: a header, then so many bytes. */
struct note {
    uint32_t kind;
    uint32_t at;
    uint32_t count;
};

/* What it said when it was opened: the slots follow, or why not. */
struct hello {
    bool open;
    bool lost;
    uint32_t slot_size;
    char wrong[WRONG_SIZE];
};

/* The life of the process, at its end of the line; it does not return. One that
 * takes the place of another (`anew`) says no hello: what it is to keep comes
 * at once. */
void writing_live(int end, const struct writer_keeps *keeps,
                  CUP_FLASH struct cup_plan *plan, bool anew);

/* Takes all of it; false when the other end is gone. */
bool writing_take(int fd, void *bytes, size_t count);

#endif
