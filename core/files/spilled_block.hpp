// Memory of which most may lie on the disk: blocks of one size in a file without a name. What is not looked
// at for a while is let go of, and comes back by itself when it is.
#pragma once

#include <cstddef>
#include <memory>

namespace heron {

/// A zeroed block of `SpilledBlock::bytes` from one store for the whole process; safe between threads, but
/// for the bytes themselves. Where the folder for large files that are not kept (/var/tmp, else the one for
/// temporary files) has no room, and beyond 8 GB, a block is plain memory and letting go of it does nothing.
class SpilledBlock {
  public:
    static constexpr std::size_t bytes = 163'840; ///< forty pages
    SpilledBlock();
    ~SpilledBlock();
    SpilledBlock(const SpilledBlock &) = delete;
    SpilledBlock &operator=(const SpilledBlock &) = delete;
    std::byte *data() const { return at_; }
    /// The block counts as memory of this process no more, until it is looked at again.
    void let_go() const;
    bool on_disk() const { return on_disk_; }

  private:
    std::byte *at_;
    bool on_disk_;
};

} // namespace heron
