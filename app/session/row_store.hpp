// Where rows that are no longer held in memory stand on the disk: the trip that is kept or looked at, or the
// spool of a recording that plays.
#pragma once

#include "picture/scan.hpp"
#include "trip/journal.hpp"

#include <filesystem>
#include <limits>
#include <memory>
#include <utility>

namespace heron::app {

class RowStore {
  public:
    RowStore() = default;
    /// What a journal writes, with a connection of this thread's own to read it back.
    /// `folder`: what must stand as long as the store does, such as a temporary folder.
    explicit RowStore(std::shared_ptr<Journal> journal, std::shared_ptr<void> folder = {})
        : folder_(std::move(folder)), journal_(std::move(journal)) {
        if (!journal_)
            return;
        if (auto file = TripFile::open_read_only(journal_->path()))
            file_ = std::make_shared<TripFile>(std::move(*file));
        path_ = journal_->path();
    }
    /// A trip that was opened.
    explicit RowStore(std::shared_ptr<TripFile> trip) : file_(std::move(trip)), path_(file_->path()) {}

    bool empty() const { return path_.empty(); }
    const std::filesystem::path &path() const { return path_; }
    const std::shared_ptr<Journal> &journal() const { return journal_; }
    TripFile *file() const { return file_.get(); }
    /// Rows before this one stand on the disk.
    std::size_t rowsKept(StreamId stream = StreamId::side) const {
        return journal_ ? journal_->rows_kept(stream) : std::numeric_limits<std::size_t>::max();
    }
    /// Fetches rows of a stream for a scan, as long as the scan lives.
    Scan::Fetch fetchOf(StreamId stream) const {
        if (!file_)
            return {};
        return [file = file_, stream](std::size_t first, std::size_t count) {
            return file->fetch(first, count, stream);
        };
    }

  private:
    std::shared_ptr<void> folder_;
    std::shared_ptr<Journal> journal_;
    std::shared_ptr<TripFile> file_;
    std::filesystem::path path_;
};

} // namespace heron::app
