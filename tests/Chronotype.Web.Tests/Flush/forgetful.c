/* A disk that forgets what it was not told to keep: preloaded into the real server, it keeps beside the data folder what the disk would
 * hold after a power cut. A file is copied there when it is flushed (fsync, fdatasync) and only then; names change there as they do.
 *   FORGETFUL_FROM  the data folder
 *   FORGETFUL_TO    what a power cut would leave of it
 */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

static pthread_mutex_t gate = PTHREAD_MUTEX_INITIALIZER;

/* The place beside, for a path within the data folder; 0 for any other. */
static int beside(const char *path, char *to)
{
    const char *from = getenv("FORGETFUL_FROM"), *root = getenv("FORGETFUL_TO");
    size_t length = from ? strlen(from) : 0;
    if (!from || !root || strncmp(path, from, length) != 0 || path[length] != '/')
        return 0;
    return snprintf(to, PATH_MAX, "%s%s", root, path + length) < PATH_MAX;
}

static void make_folders(char *path)
{
    for (char *at = path + 1; (at = strchr(at, '/')); at++) {
        *at = 0;
        mkdir(path, 0700);
        *at = '/';
    }
}

static void keep(int fd)
{
    int error = errno;
    char link[64], path[PATH_MAX], to[PATH_MAX], part[PATH_MAX + 8], block[1 << 16];
    struct stat is;
    snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
    ssize_t length = readlink(link, path, sizeof path - 1);
    if (length > 0 && (path[length] = 0, 1) && beside(path, to) && fstat(fd, &is) == 0 && S_ISREG(is.st_mode) && is.st_nlink > 0) {
        pthread_mutex_lock(&gate);
        make_folders(to);
        snprintf(part, sizeof part, "%s.part", to);
        int source = open(path, O_RDONLY | O_CLOEXEC), target = open(part, O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0600);
        ssize_t got = -1;
        while (source >= 0 && target >= 0 && (got = read(source, block, sizeof block)) > 0)
            if (write(target, block, got) != got)
                abort();
        if (source >= 0)
            close(source);
        if (target >= 0)
            close(target);
        int (*move)(const char *, const char *) = dlsym(RTLD_NEXT, "rename");
        if (got == 0)
            move(part, to);
        pthread_mutex_unlock(&gate);
    }
    errno = error;
}

int fsync(int fd)
{
    static int (*real)(int);
    if (!real)
        real = dlsym(RTLD_NEXT, "fsync");
    int answer = real(fd);
    if (answer == 0)
        keep(fd);
    return answer;
}

int fdatasync(int fd)
{
    static int (*real)(int);
    if (!real)
        real = dlsym(RTLD_NEXT, "fdatasync");
    int answer = real(fd);
    if (answer == 0)
        keep(fd);
    return answer;
}

static void moved(const char *from, const char *to)
{
    int error = errno;
    char a[PATH_MAX], b[PATH_MAX];
    int (*move)(const char *, const char *) = dlsym(RTLD_NEXT, "rename");
    int (*drop)(const char *) = dlsym(RTLD_NEXT, "unlink");
    pthread_mutex_lock(&gate);
    if (beside(to, b)) {
        /* What was not flushed under the old name is nothing under the new one. */
        make_folders(b);
        if (!beside(from, a) || move(a, b) != 0)
            drop(b);
    }
    pthread_mutex_unlock(&gate);
    errno = error;
}

int rename(const char *from, const char *to)
{
    int (*real)(const char *, const char *) = dlsym(RTLD_NEXT, "rename");
    int answer = real(from, to);
    if (answer == 0)
        moved(from, to);
    return answer;
}

int link(const char *from, const char *to)
{
    int (*real)(const char *, const char *) = dlsym(RTLD_NEXT, "link");
    char a[PATH_MAX], b[PATH_MAX];
    int answer = real(from, to), error = errno;
    if (answer == 0 && beside(from, a) && beside(to, b)) {
        make_folders(b);
        real(a, b);
    }
    errno = error;
    return answer;
}

int unlink(const char *path)
{
    int (*real)(const char *) = dlsym(RTLD_NEXT, "unlink");
    char to[PATH_MAX];
    int answer = real(path), error = errno;
    if (answer == 0 && beside(path, to))
        real(to);
    errno = error;
    return answer;
}
