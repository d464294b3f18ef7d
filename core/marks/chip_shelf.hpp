// The pictures of a library of marks, read from its file when they are looked at: a hundred thousand of them
// would take more than a gigabyte.
#pragma once

#include "files/database.hpp"
#include "marks/kept_chip.hpp"

#include <filesystem>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>

namespace heron {

/// Reads by a connection of its own. Pictures that it has lent may outlive their rows: whoever changes or
/// removes a mark's row settles that mark first.
class ChipShelf : public std::enable_shared_from_this<ChipShelf> {
  public:
    static constexpr int own = -1; ///< in place of the number of a sighting: the mark's own picture

    explicit ChipShelf(std::filesystem::path library) : library_(std::move(library)) {}

    /// A picture that lies in the file, not read yet.
    KeptChip lend(std::string mark, int sighting);
    /// Whether it is the picture that this shelf has there, so that nothing need be written.
    bool lies_there(const KeptChip &chip, std::string_view mark, int sighting) const;
    /// Takes what is lent of a mark's sightings, and of its own picture where it too is about to change, into
    /// memory.
    void settle(const std::string &mark, bool with_own);

  private:
    friend class KeptChip;
    std::shared_ptr<const Chip> read(const std::string &mark, int sighting);
    void returned(const KeptChip::Lent &lent);

    std::filesystem::path library_;
    std::mutex reading_;
    std::optional<Database> db_; ///< opened by the first look
    struct Out {
        const KeptChip::Lent *lent;
        std::weak_ptr<const KeptChip::Lent> held;
    };
    std::mutex lending_;
    std::unordered_multimap<std::string_view, Out> out_; ///< by mark; the text is the lent picture's
};

} // namespace heron
