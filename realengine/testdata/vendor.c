/* A setup of a vendor's: it starts its real work and leaves; that writes a log, waits, and
   tells how it ended. With "work" it is the second one. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <windows.h>

int main(int argc, char **argv)
{
    char path[MAX_PATH], line[MAX_PATH + 32];
    if (argc > 1 && !strcmp(argv[1], "work")) {
        const char *base = getenv("LOCALAPPDATA");
        snprintf(path, sizeof path, "%s\\Nine Fathom", base);
        CreateDirectoryA(path, NULL);
        snprintf(path, sizeof path, "%s\\Nine Fathom\\Sounder", base);
        CreateDirectoryA(path, NULL);
        snprintf(path, sizeof path, "%s\\Nine Fathom\\Sounder\\setup.log", base);
        FILE *log = fopen(path, "a");
        if (!log) return 1;
        fprintf(log, "2026-05-04 09:12:01 INFO  Sounder 3.1 setup starts\n");
        fflush(log);
        Sleep(1500);
        int there = GetFileAttributesA("C:\\ProgramData\\Nine Fathom\\licence.txt") != INVALID_FILE_ATTRIBUTES;
        if (!there) fprintf(log, "2026-05-04 09:12:03 ERROR There is not enough space on the disk (112)\n");
        fprintf(log, there ? "2026-05-04 09:12:03 INFO  setup completed successfully, exit code 0\n" : "2026-05-04 09:12:03 ERROR setup failed, exit code 23\n");
        fclose(log);
        return there ? 0 : 23;
    }
    GetModuleFileNameA(NULL, path, sizeof path);
    snprintf(line, sizeof line, "\"%s\" work", path);
    STARTUPINFOA start = { sizeof start };
    PROCESS_INFORMATION p;
    if (!CreateProcessA(NULL, line, NULL, NULL, FALSE, 0, NULL, NULL, &start, &p)) return 2;
    return GetFileAttributesA("C:\\ProgramData\\Nine Fathom\\licence.txt") != INVALID_FILE_ATTRIBUTES ? 0 : 23;
}
