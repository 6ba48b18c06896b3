#ifndef ORDERS_H
#define ORDERS_H
#ifdef __cplusplus
extern "C" {
#endif
/* Whole days until an order of a kind can be delivered. */
int order_days(const char* kind, int cone);
#ifdef __cplusplus
}
#endif
#endif
