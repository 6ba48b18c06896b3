/* Not used yet: what salt does in the last hour. */
double salt_glaze(double grams) { return grams * 0.4; }
