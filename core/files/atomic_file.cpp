#include "files/atomic_file.hpp"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace heron {
namespace {

tl::unexpected<Fault> write_fault(const std::filesystem::path &path, int error) {
    return fail(told("{} could not be written: {}", path.string(), std::strerror(error)),
                "what was there before is untouched",
                error == ENOSPC ? "free some space on the disk, or choose another place"
                                : "choose another folder, or check its permissions");
}

Result<void> flush_to_disk(const std::filesystem::path &path) {
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (fd < 0)
        return write_fault(path, errno);
    const int failed = ::fsync(fd) != 0 ? errno : 0;
    ::close(fd);
    if (failed != 0 && failed != EINVAL)
        return write_fault(path, failed);
    return {};
}

} // namespace

std::filesystem::path behind_links(const std::filesystem::path &path) {
    std::error_code error;
    if (!std::filesystem::is_symlink(path, error))
        return path;
    auto target = std::filesystem::weakly_canonical(path, error);
    return error ? path : target;
}

std::filesystem::path unfinished_name(const std::filesystem::path &path) {
    std::filesystem::path name = behind_links(path);
    name += fmt::format(".{}.part", ::getpid());
    return name;
}

Result<void> move_into_place(const std::filesystem::path &unfinished, const std::filesystem::path &to) {
    const auto path = behind_links(to);
    if (auto flushed = flush_to_disk(unfinished); !flushed) {
        std::error_code ignored;
        std::filesystem::remove(unfinished, ignored);
        return flushed;
    }
    if (std::rename(unfinished.c_str(), path.c_str()) != 0) {
        const int error = errno;
        std::error_code ignored;
        std::filesystem::remove(unfinished, ignored);
        return write_fault(path, error);
    }
    const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    return flush_to_disk(folder);
}

Result<void> write_file_atomically(const std::filesystem::path &path, std::string_view contents) {
    const auto unfinished = unfinished_name(path);
    const int fd = ::open(unfinished.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (fd < 0)
        return write_fault(path, errno);
    while (!contents.empty()) {
        const auto n = ::write(fd, contents.data(), contents.size());
        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0) {
            const int error = errno;
            ::close(fd);
            ::unlink(unfinished.c_str());
            return write_fault(path, error);
        }
        contents.remove_prefix(static_cast<std::size_t>(n));
    }
    if (::close(fd) != 0) {
        const int error = errno;
        ::unlink(unfinished.c_str());
        return write_fault(path, error);
    }
    return move_into_place(unfinished, path);
}

Result<std::string> read_whole_file(const std::filesystem::path &path, std::uintmax_t most_bytes) {
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    if (error)
        return fail(told("{} could not be read: {}", path.string(), error.message()));
    if (size > most_bytes)
        return fail(told("{} is {} MB; this program reads such files up to {} MB", path.string(),
                         size / 1000000, most_bytes / 1000000),
                    "nothing was read from it", "split the file into smaller ones");
    std::ifstream in(path, std::ios::binary);
    std::string contents(static_cast<std::size_t>(size), '\0');
    in.read(contents.data(), static_cast<std::streamsize>(size));
    if (!in)
        return fail(told("{} could not be read to its end", path.string()));
    return contents;
}

} // namespace heron
