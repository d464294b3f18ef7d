#include "marks/chip_shelf.hpp"

namespace heron {

class KeptChip::Lent : public Pixels {
  public:
    Lent(std::shared_ptr<ChipShelf> shelf, std::string mark, int sighting)
        : shelf_(std::move(shelf)), mark_(std::move(mark)), sighting_(sighting) {}
    ~Lent() override { shelf_->returned(*this); }
    std::shared_ptr<const Chip> chip() const override {
        if (auto taken = settled())
            return taken;
        auto read = shelf_->read(mark_, sighting_);
        // Its row may have been changed meanwhile; then it was settled before.
        auto taken = settled();
        return taken ? taken : read;
    }
    void settle() const {
        auto read = chip();
        const std::lock_guard hold(mutex_);
        settled_ = std::move(read);
    }
    std::shared_ptr<const Chip> settled() const {
        const std::lock_guard hold(mutex_);
        return settled_;
    }
    const ChipShelf &shelf() const { return *shelf_; }
    const std::string &mark() const { return mark_; }
    int sighting() const { return sighting_; }

  private:
    std::shared_ptr<ChipShelf> shelf_;
    std::string mark_;
    int sighting_;
    mutable std::mutex mutex_;
    mutable std::shared_ptr<const Chip> settled_;
};

KeptChip ChipShelf::lend(std::string mark, int sighting) {
    auto lent = std::make_shared<const KeptChip::Lent>(shared_from_this(), std::move(mark), sighting);
    const std::lock_guard hold(lending_);
    out_.insert({lent->mark(), {lent.get(), lent}});
    return KeptChip(std::move(lent));
}

bool ChipShelf::lies_there(const KeptChip &chip, std::string_view mark, int sighting) const {
    const auto *lent = dynamic_cast<const KeptChip::Lent *>(chip.pixels_.get());
    return lent != nullptr && &lent->shelf() == this && lent->settled() == nullptr && lent->mark() == mark &&
           lent->sighting() == sighting;
}

void ChipShelf::settle(const std::string &mark, bool with_own) {
    // They are let go of after the lock: the last to hold one gives it back here.
    std::vector<std::shared_ptr<const KeptChip::Lent>> held;
    {
        const std::lock_guard hold(lending_);
        const auto [from, to] = out_.equal_range(mark);
        for (auto at = from; at != to; ++at)
            if (auto lent = at->second.held.lock(); lent && (with_own || lent->sighting() != own))
                held.push_back(std::move(lent));
    }
    for (const auto &lent : held)
        lent->settle();
}

void ChipShelf::returned(const KeptChip::Lent &lent) {
    const std::lock_guard hold(lending_);
    const auto [from, to] = out_.equal_range(lent.mark());
    for (auto at = from; at != to; ++at)
        if (at->second.lent == &lent) {
            out_.erase(at);
            return;
        }
}

std::shared_ptr<const Chip> ChipShelf::read(const std::string &mark, int sighting) {
    auto none = std::make_shared<const Chip>();
    const std::lock_guard hold(reading_);
    if (!db_) {
        // By one that may write: the last to close a file with a log beside it tidies that away.
        auto opened = Database::open(library_, Database::Mode::write);
        if (!opened)
            return none;
        db_.emplace(std::move(*opened));
    }
    auto q = db_->prepare(sighting == own ? "SELECT chip, chip_width, chip_height FROM marks WHERE id = ?1"
                                          : "SELECT chip FROM heron_sightings WHERE mark = ?1 AND n = ?2");
    if (!q.ready())
        return none;
    q.bind(1, mark);
    if (sighting != own)
        q.bind(2, sighting);
    if (!q.next())
        return none;
    const auto bytes = q.blob(0);
    if (sighting != own) {
        auto chip = unpack_chip(bytes);
        return chip ? std::make_shared<const Chip>(std::move(*chip)) : none;
    }
    const auto w = q.whole(1), h = q.whole(2);
    if (w <= 0 || h <= 0 || w >= 4096 || h >= 4096 || w * h != std::ssize(bytes))
        return none;
    return std::make_shared<const Chip>(
        Chip{static_cast<int>(w), static_cast<int>(h), {bytes.begin(), bytes.end()}});
}

} // namespace heron
