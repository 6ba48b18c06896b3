// The price list: a line for each kind of brick and tile, "name price".
#ifndef LIST_H
#define LIST_H

// Reads the list; -1 when it cannot be read.
int read_prices(const char* path);
// The price in cents; -1 when there is no such thing.
int price_of(const char* name);
// All of it as JSON.
void write_prices(char* into, unsigned long size);

#endif
