#include "recording/hdf5_check.hpp"

#include "recording/netcdf_file.hpp"

#include <fmt/format.h>
#include <hdf5.h>
#include <set>
#include <string>
#include <utility>

namespace heron {
namespace {

constexpr std::size_t most_links = 20'000, deepest = 16;

/// Closes what HDF5 opened.
class Handle {
  public:
    Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) {}
    ~Handle() {
        if (id_ >= 0)
            close_(id_);
    }
    Handle(const Handle &) = delete;
    Handle &operator=(const Handle &) = delete;
    bool open() const { return id_ >= 0; }
    operator hid_t() const { return id_; }

  private:
    hid_t id_;
    herr_t (*close_)(hid_t);
};

class Walk {
  public:
    /// What is wrong with a group or below it; empty where nothing is.
    std::string look(hid_t group, const std::string &path, std::size_t depth) {
        if (depth > deepest)
            return fmt::format("{} lies deeper than any group of a recording", path);
        if (H5O_info_t about;
            H5Oget_info2(group, &about, H5O_INFO_BASIC) >= 0 && !groups_.insert(about.addr).second)
            return fmt::format("{} is a group that is linked to twice, or to itself", path);
        Iteration it{this, &path, depth, {}};
        hsize_t at = 0;
        const auto end = H5Literate(group, H5_INDEX_NAME, H5_ITER_NATIVE, &at, &Walk::link, &it);
        if (it.wrong.empty() && end < 0)
            return fmt::format("the links of {} cannot be read", path);
        return it.wrong;
    }

  private:
    struct Iteration {
        Walk *walk;
        const std::string *path;
        std::size_t depth;
        std::string wrong;
    };
    static herr_t link(hid_t group, const char *name, const H5L_info_t *info, void *data) {
        auto &it = *static_cast<Iteration *>(data);
        const auto path = (*it.path == "/" ? "" : *it.path) + "/" + name;
        if (++it.walk->links_ > most_links)
            it.wrong = fmt::format("it holds more than {} groups and variables", most_links);
        else if (info->type == H5L_TYPE_EXTERNAL)
            it.wrong = fmt::format("{} leads to another file", path);
        else if (info->type == H5L_TYPE_SOFT)
            it.wrong = fmt::format("{} is a soft link, which no recording has", path);
        else if (info->type != H5L_TYPE_HARD)
            it.wrong = fmt::format("{} is a link of an unknown sort", path);
        else
            it.wrong = it.walk->object(group, name, path, it.depth);
        return it.wrong.empty() ? 0 : 1;
    }
    std::string object(hid_t group, const char *name, const std::string &path, std::size_t depth) {
        const Handle object(H5Oopen(group, name, H5P_DEFAULT), &H5Oclose);
        if (!object.open())
            return {}; // damaged: netCDF tells how
        switch (H5Iget_type(object)) {
        case H5I_GROUP:
            return look(object, path, depth + 1);
        case H5I_DATASET: {
            const Handle how(H5Dget_create_plist(object), &H5Pclose);
            if (how.open() && (H5Pget_external_count(how) > 0 || H5Pget_layout(how) == H5D_VIRTUAL))
                return fmt::format("{} keeps its data in another file", path);
            return {};
        }
        default:
            return {};
        }
    }
    std::set<haddr_t> groups_; // by where they lie in the file
    std::size_t links_ = 0;
};

} // namespace

Result<void> check_hdf5(const std::filesystem::path &path) {
    const std::scoped_lock hold(netcdf_lock());
    quiet_netcdf();
    if (H5Fis_hdf5(path.c_str()) <= 0)
        return {}; // another form, or damaged: netCDF tells
    const Handle file(H5Fopen(path.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), &H5Fclose);
    if (!file.open())
        return {};
    const Handle root(H5Gopen2(file, "/", H5P_DEFAULT), &H5Gclose);
    if (!root.open())
        return {};
    if (const auto wrong = Walk().look(root, "/", 0); !wrong.empty())
        return fail(told("{}: {}", path.string(), wrong), "nothing was read, here or elsewhere",
                    "ask whoever gave you the file for the recording itself");
    return {};
}

} // namespace heron
