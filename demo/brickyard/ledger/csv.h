/* Lines of "kind,pieces". */
#ifndef LEDGER_CSV_H
#define LEDGER_CSV_H

#ifdef __cplusplus
extern "C" {
#endif

/* Takes a line apart, in place. Returns 0 when it is none that counts. */
int csv_read(char *line, const char **kind, long *pieces);

#ifdef __cplusplus
}
#endif

#endif
