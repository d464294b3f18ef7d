#include "files/spilled_block.hpp"

#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <filesystem>
#include <mutex>
#include <new>
#include <sys/mman.h>
#include <unistd.h>
#include <vector>

namespace heron {
namespace {

constexpr std::size_t blocks_a_segment = 64, most_segments = 800;

// Blocks that are given back are used again; the file lasts as long as the process.
class Store {
  public:
    std::byte *take() {
        const std::lock_guard lock(mutex_);
        if (free_.empty() && !grow())
            return nullptr;
        auto *at = free_.back();
        free_.pop_back();
        return at;
    }
    void give_back(std::byte *at) {
        const std::lock_guard lock(mutex_);
        free_.push_back(at);
    }

  private:
    // Room on the disk is taken beforehand: a write into a mapped file cannot say that there is none.
    bool grow() {
        if (refused_ || segments_ == most_segments || (file_ < 0 && !open()))
            return false;
        constexpr auto size = static_cast<off_t>(blocks_a_segment * SpilledBlock::bytes);
        const auto from = static_cast<off_t>(segments_) * size;
        if (::posix_fallocate(file_, from, size) != 0) {
            refused_ = true;
            return false;
        }
        void *at =
            ::mmap(nullptr, static_cast<std::size_t>(size), PROT_READ | PROT_WRITE, MAP_SHARED, file_, from);
        if (at == MAP_FAILED) {
            refused_ = true;
            return false;
        }
        ++segments_;
        for (std::size_t i = blocks_a_segment; i > 0; --i)
            free_.push_back(static_cast<std::byte *>(at) + (i - 1) * SpilledBlock::bytes);
        return true;
    }
    bool open() {
        std::error_code ignored;
        for (const auto &folder :
             {std::filesystem::path("/var/tmp"), std::filesystem::temp_directory_path(ignored)})
            if (!folder.empty() &&
                (file_ = ::open(folder.c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0600)) >= 0)
                return true;
        refused_ = true;
        return false;
    }
    std::mutex mutex_;
    std::vector<std::byte *> free_;
    std::size_t segments_ = 0;
    int file_ = -1;
    bool refused_ = false;
};

// Never ended: blocks of other static things may outlive it.
Store &store() {
    static auto *all = new Store;
    return *all;
}

} // namespace

SpilledBlock::SpilledBlock() : at_(store().take()), on_disk_(at_ != nullptr) {
    if (at_ == nullptr)
        at_ = static_cast<std::byte *>(::operator new(bytes, std::align_val_t(64)));
    std::memset(at_, 0, bytes);
}

SpilledBlock::~SpilledBlock() {
    if (on_disk_) {
        let_go();
        store().give_back(at_);
    } else {
        ::operator delete(at_, std::align_val_t(64));
    }
}

void SpilledBlock::let_go() const {
    if (on_disk_)
        (void)::madvise(at_, bytes, MADV_DONTNEED); // of a shared file: the file keeps what was written
}

} // namespace heron
