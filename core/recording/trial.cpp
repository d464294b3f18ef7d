#include "recording/trial.hpp"

#include "recording/netcdf_file.hpp"

#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <new>
#include <sys/mman.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace heron {
namespace {

constexpr rlim_t most_more_bytes = 512u << 20; // than its parent had

// The address space of this process; 0 where the system does not tell.
rlim_t bytes_mapped() {
    char text[64] = {};
    const int file = ::open("/proc/self/statm", O_RDONLY | O_CLOEXEC);
    if (file < 0)
        return 0;
    const auto n = ::read(file, text, sizeof text - 1);
    ::close(file);
    return n > 0 ? std::strtoull(text, nullptr, 10) * static_cast<rlim_t>(::sysconf(_SC_PAGESIZE)) : 0;
}

[[noreturn]] void be_the_child(const std::function<void(std::atomic<std::size_t> &)> &work,
                               std::atomic<std::size_t> &progress, unsigned limit_s) {
    for (const int s : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL, SIGALRM, SIGXCPU})
        ::signal(s, SIG_DFL);
    const rlimit no_core{0, 0};
    ::setrlimit(RLIMIT_CORE, &no_core);
    const rlimit cpu{limit_s, limit_s + 1};
    ::setrlimit(RLIMIT_CPU, &cpu);
    if (const auto now = bytes_mapped(); now > 0) {
        const rlimit memory{now + most_more_bytes, now + most_more_bytes};
        ::setrlimit(RLIMIT_AS, &memory);
    }
    if (const int nowhere = ::open("/dev/null", O_WRONLY); nowhere >= 0) {
        ::dup2(nowhere, STDOUT_FILENO);
        ::dup2(nowhere, STDERR_FILENO);
    }
    ::alarm(limit_s);
    renew_netcdf_lock_in_child();
    try {
        work(progress);
    } catch (...) {
        ::_exit(1);
    }
    ::_exit(0);
}

} // namespace

Trial try_apart(const std::function<void(std::atomic<std::size_t> &)> &work, unsigned limit_s) {
    void *shared = ::mmap(nullptr, sizeof(std::atomic<std::size_t>), PROT_READ | PROT_WRITE,
                          MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    if (shared == MAP_FAILED)
        return {};
    auto *progress = new (shared) std::atomic<std::size_t>(0);
    Trial trial;
    const pid_t child = ::fork();
    if (child == 0)
        be_the_child(work, *progress, limit_s);
    if (child > 0) {
        int status = 0;
        while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
        }
        if (WIFSIGNALED(status) && (WTERMSIG(status) == SIGALRM || WTERMSIG(status) == SIGXCPU))
            trial.end = Trial::End::stuck;
        else if (!WIFEXITED(status) || WEXITSTATUS(status) != 0)
            trial.end = Trial::End::broke;
        trial.reached = progress->load();
    }
    ::munmap(shared, sizeof(std::atomic<std::size_t>));
    return trial;
}

} // namespace heron
