#include "files/zip.hpp"

#include "files/atomic_file.hpp"
#include "files/gdal.hpp"

#include <algorithm>
#include <cpl_conv.h>
#include <cpl_string.h>
#include <cpl_vsi.h>
#include <fmt/format.h>
#include <fstream>
#include <string_view>

namespace heron {
namespace {

struct CloseFile {
    void operator()(VSILFILE *f) const { VSIFCloseL(f); }
};
using VsiFile = std::unique_ptr<VSILFILE, CloseFile>;

struct FreeList {
    void operator()(char **list) const { CSLDestroy(list); }
};

bool leads_out(const std::string &name) {
    return name.empty() || name.front() == '/' || name.find("..") != std::string::npos ||
           name.find('\\') != std::string::npos;
}

// The directory at an archive's end (PKWARE's APPNOTE.TXT 6.3, sections 4.3.7, 4.3.12 and 4.3.16), looked at
// before the library does: it goes through extra fields byte by byte, and past the file's end, so that some
// hundred bytes can keep it busy for seconds and a large file for hours.
class Directory {
  public:
    explicit Directory(const std::filesystem::path &file) : in_(file, std::ios::binary) {
        in_.seekg(0, std::ios::end);
        size_ = in_ ? static_cast<std::uint64_t>(in_.tellg()) : 0;
    }
    enum class Found { sound, too_many, broken };
    Found check(std::size_t most_members) {
        const auto tail = static_cast<std::size_t>(std::min<std::uint64_t>(size_, end_size + 65'535));
        const auto end = bytes(size_ - tail, tail);
        const auto at = end.rfind(std::string_view("PK\5\6", 4));
        if (at == std::string::npos || at + end_size > end.size())
            return Found::broken;
        // Of archives beyond 4 GB the directory may stand elsewhere: none of ours, and not looked at here.
        if (end.find(std::string_view("PK\6\7", 4)) != std::string::npos)
            return Found::broken;
        const auto members = number(end, at + 10, 2), length = number(end, at + 12, 4),
                   from = number(end, at + 16, 4);
        if (members > most_members)
            return Found::too_many;
        const auto end_at = size_ - tail + at;
        if (length + from > end_at)
            return Found::broken;
        const auto before = end_at - length - from; // what stands before the archive counts in no place
        auto entry_at = before + from;
        for (std::uint64_t i = 0; i < members; ++i) {
            const auto entry = bytes(entry_at, entry_size);
            if (!entry.starts_with(std::string_view("PK\1\2", 4)))
                return Found::broken;
            const auto name = number(entry, 28, 2), extra = number(entry, 30, 2),
                       comment = number(entry, 32, 2);
            const auto local = bytes(before + number(entry, 42, 4), local_size);
            if (!local.starts_with(std::string_view("PK\3\4", 4)) ||
                std::max({name, extra, comment, number(local, 26, 2), number(local, 28, 2)}) > longest_field)
                return Found::broken;
            entry_at += entry_size + name + extra + comment;
        }
        return entry_at <= end_at ? Found::sound : Found::broken;
    }

  private:
    static constexpr std::size_t end_size = 22, entry_size = 46, local_size = 30;
    static constexpr std::uint64_t longest_field = 4096;
    // Shorter than asked for, and padded with nothing, at the file's end.
    std::string bytes(std::uint64_t from, std::size_t n) {
        std::string out(n, '\0');
        in_.clear();
        in_.seekg(static_cast<std::streamoff>(from));
        in_.read(out.data(), static_cast<std::streamsize>(n));
        return out;
    }
    static std::uint64_t number(std::string_view in, std::size_t at, std::size_t wide) {
        std::uint64_t n = 0;
        for (std::size_t i = wide; i > 0; --i)
            n = n << 8 | static_cast<unsigned char>(in[at + i - 1]);
        return n;
    }
    std::ifstream in_;
    std::uint64_t size_ = 0;
};

} // namespace

Result<void> write_zip(const std::filesystem::path &file, const std::vector<ZipMember> &members) {
    begin_gdal();
    auto part = unfinished_name(behind_links(file));
    // By its suffix the archive is known as one.
    part += ".kmz";
    const auto archive = "/vsizip/{" + part.string() + "}";
    bool written = true;
    {
        const VsiFile whole(VSIFOpenL(archive.c_str(), "wb"));
        written = whole != nullptr;
        for (const auto &m : members) {
            if (!written)
                break;
            auto *f = VSIFOpenL((archive + "/" + m.name).c_str(), "wb");
            written = f != nullptr && VSIFWriteL(m.bytes.data(), 1, m.bytes.size(), f) == m.bytes.size();
            if (f != nullptr)
                written = VSIFCloseL(f) == 0 && written;
        }
    }
    if (!written) {
        std::error_code ignored;
        std::filesystem::remove(part, ignored);
        return fail(told("{} cannot be written", file.string()), told("nothing was left behind"),
                    told("choose another folder, or make room on the disk"));
    }
    return move_into_place(part, file);
}

Result<std::vector<ZipMember>> read_zip(const std::filesystem::path &file, const std::string &suffix,
                                        std::size_t most_members, std::uintmax_t most_bytes) {
    begin_gdal();
    const auto too_many = [&] {
        return fail(told("{} holds more than {} files", file.string(), most_members),
                    told("nothing was taken from it"), told("ask for a smaller file"));
    };
    const auto found = Directory(file).check(most_members);
    if (found == Directory::Found::too_many)
        return too_many();
    if (found == Directory::Found::broken)
        return fail(told("{} is no archive that can be read", file.string()),
                    told("nothing was taken from it"), told("ask for the file once more"));
    // The braces say that it is an archive whatever its name is.
    const auto archive = "/vsizip/{" + file.string() + "}";
    const std::unique_ptr<char *, FreeList> names(VSIReadDirRecursive(archive.c_str()));
    if (!names)
        return fail(told("{} is no archive that can be read", file.string()),
                    told("nothing was taken from it"), told("ask for the file once more"));
    std::vector<ZipMember> members;
    std::uintmax_t bytes = 0;
    std::size_t seen = 0;
    for (char **n = names.get(); *n != nullptr; ++n) {
        if (++seen > most_members)
            return too_many();
        const std::string name = *n;
        if (leads_out(name) || name.back() == '/' || !name.ends_with(suffix))
            continue;
        const VsiFile f(VSIFOpenL(fmt::format("{}/{}", archive, name).c_str(), "rb"));
        if (!f)
            continue;
        ZipMember m{name, {}};
        constexpr std::size_t piece = 1u << 16;
        std::string buffer(piece, '\0');
        // What a directory says of a member's size is not trusted.
        for (std::size_t got = piece; got == piece;) {
            got = VSIFReadL(buffer.data(), 1, piece, f.get());
            bytes += got;
            if (bytes > most_bytes)
                return fail(told("{} unpacks to more than {} MB", file.string(), most_bytes >> 20),
                            told("nothing was taken from it"), told("ask for a smaller file"));
            m.bytes.append(buffer, 0, got);
        }
        members.push_back(std::move(m));
    }
    return members;
}

} // namespace heron
