#include <windows.h>

void console_colours(void) { SetConsoleTextAttribute(GetStdHandle(STD_OUTPUT_HANDLE), 7); }
