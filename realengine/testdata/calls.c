#include <process.h>
/* Calls the program that its arguments name and ends as it does: a stand-in, by its file's name,
 * for a shell that is not there. */
int main(int argc, char **argv)
{
    return argc < 2 ? 2 : (int)_spawnv(_P_WAIT, argv[1], (const char *const *)(argv + 1));
}
