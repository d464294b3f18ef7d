#include "marks/kept_chip.hpp"

namespace heron {

class KeptChip::Owned : public Pixels {
  public:
    explicit Owned(Chip chip) : chip_(std::make_shared<const Chip>(std::move(chip))) {}
    std::shared_ptr<const Chip> chip() const override { return chip_; }

  private:
    std::shared_ptr<const Chip> chip_;
};

KeptChip::KeptChip(Chip chip) {
    if (!chip.empty())
        pixels_ = std::make_shared<const Owned>(std::move(chip));
}

std::shared_ptr<const Chip> KeptChip::look() const {
    static const auto none = std::make_shared<const Chip>();
    return pixels_ ? pixels_->chip() : none;
}

bool KeptChip::operator==(const KeptChip &o) const {
    if (pixels_ == o.pixels_)
        return true;
    return !empty() && !o.empty() && *look() == *o.look();
}

} // namespace heron
