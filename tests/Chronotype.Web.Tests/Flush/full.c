/* A disk that is full while somebody says so: preloaded into the real server, it has no room for anything more in the data folder.
 *   FULL_IN    the data folder
 *   FULL_WHILE the file that says so while it is there
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/uio.h>
#include <unistd.h>

/* Whether a file of the data folder would grow past what it has. What is written over has its room already, but for the log of the records,
 * which is taken to be at its end. */
static int is_full(int fd, off_t end)
{
    const char *in = getenv("FULL_IN"), *flag = getenv("FULL_WHILE");
    char link[64], path[PATH_MAX];
    struct stat is;
    if (!in || !flag || access(flag, F_OK) != 0)
        return 0;
    snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
    ssize_t length = readlink(link, path, sizeof path - 1);
    if (length <= 0)
        return 0;
    path[length] = 0;
    if (strncmp(path, in, strlen(in)) != 0 || fstat(fd, &is) != 0 || !S_ISREG(is.st_mode))
        return 0;
    return end > is.st_size || (length > 4 && strcmp(path + length - 4, "-wal") == 0);
}

#define REAL(name) \
    static __typeof__(name) *real; \
    if (!real) \
    real = dlsym(RTLD_NEXT, #name)
#define REFUSE \
    do { \
        errno = ENOSPC; \
        return -1; \
    } while (0)

ssize_t write(int fd, const void *from, size_t count)
{
    REAL(write);
    int error = errno;
    off_t at = lseek(fd, 0, SEEK_CUR);
    errno = error;
    if (at >= 0 && is_full(fd, at + (off_t)count))
        REFUSE;
    return real(fd, from, count);
}

ssize_t pwrite(int fd, const void *from, size_t count, off_t at)
{
    REAL(pwrite);
    if (is_full(fd, at + (off_t)count))
        REFUSE;
    return real(fd, from, count, at);
}

ssize_t pwrite64(int fd, const void *from, size_t count, off64_t at)
{
    REAL(pwrite64);
    if (is_full(fd, at + (off_t)count))
        REFUSE;
    return real(fd, from, count, at);
}

ssize_t pwritev(int fd, const struct iovec *from, int count, off_t at)
{
    REAL(pwritev);
    if (is_full(fd, at + 1))
        REFUSE;
    return real(fd, from, count, at);
}

int ftruncate64(int fd, off64_t length)
{
    REAL(ftruncate64);
    if (is_full(fd, length))
        REFUSE;
    return real(fd, length);
}

int posix_fallocate64(int fd, off64_t at, off64_t length)
{
    REAL(posix_fallocate64);
    return is_full(fd, at + length) ? ENOSPC : real(fd, at, length);
}
