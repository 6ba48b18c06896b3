#include "textline.h"

#include <ctype.h>
#include <string.h>

size_t textline_split(char *line, char separator, char **fields, size_t room) {
  size_t count = 0;
  char *at = line;
  while (count < room) {
    char *end = strchr(at, separator);
    fields[count++] = at;
    if (end == NULL) break;
    *end = '\0';
    at = end + 1;
  }
  return count;
}

char *textline_trim(char *text) {
  char *end;
  while (isspace((unsigned char)*text)) ++text;
  end = text + strlen(text);
  while (end > text && isspace((unsigned char)end[-1])) *--end = '\0';
  return text;
}
