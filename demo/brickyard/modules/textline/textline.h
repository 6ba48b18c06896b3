/* Splits lines of text at a separator. */
#ifndef TEXTLINE_H
#define TEXTLINE_H

#include <stddef.h>

#ifdef __cplusplus
extern "C" {
#endif

/* Cuts `line` in place at every `separator`, at most `room` times; returns how many fields there are. */
size_t textline_split(char *line, char separator, char **fields, size_t room);

/* Removes blanks and line ends on both sides, in place; returns the new beginning. */
char *textline_trim(char *text);

#ifdef __cplusplus
}
#endif

#endif
