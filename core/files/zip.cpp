#include "files/zip.hpp"

#include "files/atomic_file.hpp"
#include "files/gdal.hpp"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <cpl_vsi.h>

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
            return fail(told("{} holds more than {} files", file.string(), most_members),
                        told("nothing was taken from it"), told("ask for a smaller file"));
        const std::string name = *n;
        if (leads_out(name) || name.back() == '/' || !name.ends_with(suffix))
            continue;
        const VsiFile f(VSIFOpenL((archive + "/" + name).c_str(), "rb"));
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
