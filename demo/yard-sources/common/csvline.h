/* One line of a table, cut at its commas. */
#ifndef CSVLINE_H
#define CSVLINE_H

#ifdef __cplusplus
extern "C" {
#endif

/* The field of that number, from 0, as a new string; NULL when the line has fewer. */
char* csv_field(const char* line, int number);

#ifdef __cplusplus
}
#endif
#endif
