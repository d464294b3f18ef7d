// A mark's picture: in memory, or lying in the library's file until somebody looks at it.
#pragma once

#include "picture/chip.hpp"

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace heron {

class ChipShelf;

/// Cheap to copy; copies share one picture. Safe to look at from several threads.
class KeptChip {
  public:
    KeptChip() = default;
    KeptChip(Chip chip); ///< in memory; an empty one is none
    KeptChip(int width, int height, std::vector<std::uint8_t> level)
        : KeptChip(Chip{width, height, std::move(level)}) {}

    bool empty() const { return pixels_ == nullptr; }
    /// The picture, read now where it is not in memory, and held as long as the caller holds it. Never null;
    /// an empty one where there is none, or where its file no longer has it.
    std::shared_ptr<const Chip> look() const;
    /// Two that lie in one place are equal without being read.
    bool operator==(const KeptChip &o) const;

  private:
    friend class ChipShelf;
    class Pixels {
      public:
        virtual ~Pixels() = default;
        virtual std::shared_ptr<const Chip> chip() const = 0;
    };
    class Owned;
    class Lent;
    explicit KeptChip(std::shared_ptr<const Pixels> pixels) : pixels_(std::move(pixels)) {}
    std::shared_ptr<const Pixels> pixels_;
};

} // namespace heron
