/* A prerequisite that fails, as obsolete ones do. */
int main(void) { return 7; }
