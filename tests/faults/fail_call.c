/* Loaded before the C library: lets the Nth call that changes anything under a folder fail, or kills the program there.
   WREN_FAULT_DIR   the folder
   WREN_FAULT_AT    which call, from 1
   WREN_FAULT_MODE  "fail" (that call alone, EIO), "full" (that one and all later ones that need room, ENOSPC), "kill"
   WREN_FAULT_MARK  made when it happened, so that whoever counts knows where the calls end */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <signal.h>
#include <stdarg.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

static atomic_long calls;

static int under(const char* path) {
  const char* dir = getenv("WREN_FAULT_DIR");
  char here[PATH_MAX * 2];
  if (dir == NULL || path == NULL) return 0;
  if (path[0] != '/') {
    char now[PATH_MAX];
    if (getcwd(now, sizeof now) == NULL) return 0;
    snprintf(here, sizeof here, "%s/%s", now, path);
    path = here;
  }
  return strncmp(path, dir, strlen(dir)) == 0;
}

static int fd_under(int fd) {
  char name[64], path[PATH_MAX];
  snprintf(name, sizeof name, "/proc/self/fd/%d", fd);
  const ssize_t n = readlink(name, path, sizeof path - 1);
  if (n <= 0) return 0;
  path[n] = 0;
  return under(path);
}

/* True where this call is to fail; errno is set. */
static int fault(int needs_room) {
  const char* at = getenv("WREN_FAULT_AT");
  const char* mode = getenv("WREN_FAULT_MODE");
  if (at == NULL || mode == NULL) return 0;
  const long now = atomic_fetch_add(&calls, 1) + 1;
  const long wanted = atol(at);
  const int full = strcmp(mode, "full") == 0;
  if (!(now == wanted || (full && now > wanted && needs_room))) return 0;
  const char* mark = getenv("WREN_FAULT_MARK");
  if (mark != NULL) {
    const long fd = syscall(SYS_openat, AT_FDCWD, mark, O_WRONLY | O_CREAT, 0600);
    if (fd >= 0) syscall(SYS_close, fd);
  }
  if (strcmp(mode, "kill") == 0) {
    kill(getpid(), SIGKILL);
    for (;;) pause();
  }
  if (full && !needs_room) return 0;
  errno = full ? ENOSPC : EIO;
  return 1;
}

#define REAL(name) ((__typeof__(&name))dlsym(RTLD_NEXT, #name))

static int makes(const char* path, int flags) { return (flags & (O_CREAT | O_TRUNC)) != 0 && under(path); }

int open(const char* path, int flags, ...) {
  va_list more;
  va_start(more, flags);
  const mode_t mode = va_arg(more, mode_t);
  va_end(more);
  if (makes(path, flags) && fault(1)) return -1;
  return (int)syscall(SYS_openat, AT_FDCWD, path, flags, mode);
}
int open64(const char* path, int flags, ...) __attribute__((alias("open")));
ssize_t write(int fd, const void* bytes, size_t n) {
  if (fd_under(fd) && fault(1)) return -1;
  return REAL(write)(fd, bytes, n);
}
ssize_t pwrite64(int fd, const void* bytes, size_t n, off64_t at) {
  if (fd_under(fd) && fault(1)) return -1;
  return REAL(pwrite64)(fd, bytes, n, at);
}
ssize_t pwrite(int fd, const void* bytes, size_t n, off_t at) {
  if (fd_under(fd) && fault(1)) return -1;
  return REAL(pwrite)(fd, bytes, n, at);
}
int ftruncate(int fd, off_t size) { return fd_under(fd) && fault(0) ? -1 : REAL(ftruncate)(fd, size); }
int fsync(int fd) { return fd_under(fd) && fault(1) ? -1 : REAL(fsync)(fd); }
int fchmod(int fd, mode_t mode) { return fd_under(fd) && fault(0) ? -1 : REAL(fchmod)(fd, mode); }
int mkdir(const char* path, mode_t mode) { return under(path) && fault(1) ? -1 : REAL(mkdir)(path, mode); }
int rename(const char* from, const char* to) { return under(to) && fault(0) ? -1 : REAL(rename)(from, to); }
int renameat2(int from_dir, const char* from, int to_dir, const char* to, unsigned flags) {
  return under(to) && fault(0) ? -1 : REAL(renameat2)(from_dir, from, to_dir, to, flags);
}
int link(const char* from, const char* to) { return under(to) && fault(1) ? -1 : REAL(link)(from, to); }
int unlink(const char* path) { return under(path) && fault(0) ? -1 : REAL(unlink)(path); }
