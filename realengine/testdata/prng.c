/* Programs built with Go ask this library for random bytes; wine 8 lacks it. */
#include <windows.h>
BOOLEAN NTAPI SystemFunction036(PVOID buffer, ULONG size);
__declspec(dllexport) BOOL WINAPI ProcessPrng(PBYTE buffer, SIZE_T size)
{
    return SystemFunction036(buffer, (ULONG)size);
}
