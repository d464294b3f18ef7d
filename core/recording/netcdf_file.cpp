#include "recording/netcdf_file.hpp"

#include "recording/hdf5_check.hpp"

#include <cmath>
#include <fmt/format.h>
#include <hdf5.h>
#include <limits>
#include <netcdf.h>
#include <numeric>
#include <utility>

namespace heron {
namespace {

std::recursive_mutex first_lock;
std::recursive_mutex *lock_in_force = &first_lock;

constexpr std::size_t most_values = 100'000'000; // a day at 1 kHz; more is a damaged header

std::string without_blanks_behind(std::string text) {
    while (!text.empty() && (text.back() == '\0' || text.back() == ' '))
        text.pop_back();
    return text;
}

std::optional<std::string> text_att(int group, int variable, const std::string &name) {
    nc_type type = NC_NAT;
    std::size_t length = 0;
    if (nc_inq_att(group, variable, name.c_str(), &type, &length) != NC_NOERR)
        return std::nullopt;
    if (type == NC_CHAR) {
        std::string text(length, '\0');
        if (length > 0 && nc_get_att_text(group, variable, name.c_str(), text.data()) != NC_NOERR)
            return std::nullopt;
        return without_blanks_behind(std::move(text));
    }
    if (type == NC_STRING && length >= 1) {
        std::vector<char *> strings(length, nullptr);
        if (nc_get_att_string(group, variable, name.c_str(), strings.data()) != NC_NOERR)
            return std::nullopt;
        std::string text = strings[0] != nullptr ? strings[0] : "";
        nc_free_string(length, strings.data());
        return without_blanks_behind(std::move(text));
    }
    return std::nullopt;
}

// The value that netCDF writes where nobody wrote, for types in which it cannot be a sample.
std::optional<double> default_fill(nc_type type) {
    switch (type) {
    case NC_SHORT:
        return NC_FILL_SHORT;
    case NC_INT:
        return NC_FILL_INT;
    case NC_UINT:
        return NC_FILL_UINT;
    case NC_FLOAT:
        return static_cast<double>(NC_FILL_FLOAT);
    case NC_DOUBLE:
        return NC_FILL_DOUBLE;
    default:
        return std::nullopt;
    }
}

std::string variable_name_of(int group, int id) {
    std::string name(NC_MAX_NAME + 1, '\0');
    nc_inq_varname(group, id, name.data());
    name.resize(name.find('\0'));
    return name;
}

} // namespace

std::recursive_mutex &netcdf_lock() {
    return *lock_in_force;
}

void quiet_netcdf() {
    H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
}

void renew_netcdf_lock_in_child() {
    lock_in_force = new std::recursive_mutex; // a child's child takes one more; all end with their process
}

NcPacking NcVariable::packing() const {
    NcPacking p;
    p.scale = number_attribute("scale_factor").value_or(1);
    p.offset = number_attribute("add_offset").value_or(0);
    if (const auto fill = number_attribute("_FillValue"))
        p.missing.push_back(*fill);
    else if (const auto usual = default_fill(base_type); usual && !variable_length)
        p.missing.push_back(*usual);
    if (const auto none = number_attribute("missing_value"))
        p.missing.push_back(*none);
    // Bounds of another type than the stored numbers' are meant for what they unpack to: left alone.
    const auto stored = [&](const char *attribute) {
        nc_type of = NC_NAT;
        return nc_inq_atttype(group, id, attribute, &of) == NC_NOERR && (!p.packed() || of == base_type);
    };
    double range[2];
    std::size_t length = 0;
    if (stored("valid_range") && nc_inq_attlen(group, id, "valid_range", &length) == NC_NOERR &&
        length == 2 && nc_get_att_double(group, id, "valid_range", range) == NC_NOERR) {
        p.least = range[0];
        p.most = range[1];
    }
    if (stored("valid_min"))
        p.least = number_attribute("valid_min").value_or(p.least);
    if (stored("valid_max"))
        p.most = number_attribute("valid_max").value_or(p.most);
    // Bounds that hold nothing bound nothing.
    if (!(p.least <= p.most)) {
        p.least = -std::numeric_limits<double>::infinity();
        p.most = std::numeric_limits<double>::infinity();
    }
    return p;
}

std::optional<std::vector<double>> NcVariable::numbers() const {
    if (variable_length || type == NC_CHAR || type == NC_STRING)
        return std::nullopt;
    const auto count = std::accumulate(shape.begin(), shape.end(), std::size_t{1}, std::multiplies<>());
    if (count > most_values)
        return std::nullopt;
    std::vector<double> values(count);
    if (count == 0)
        return values;
    if (nc_get_var_double(group, id, values.data()) != NC_NOERR)
        return std::nullopt;
    const auto stored = packing();
    for (auto &v : values)
        v = stored.value(v);
    return values;
}

std::optional<std::vector<std::string>> NcVariable::texts() const {
    std::vector<std::string> out;
    if (type == NC_STRING) {
        const auto count = std::accumulate(shape.begin(), shape.end(), std::size_t{1}, std::multiplies<>());
        if (count > most_values)
            return std::nullopt;
        std::vector<char *> strings(count, nullptr);
        if (count > 0 && nc_get_var_string(group, id, strings.data()) != NC_NOERR)
            return std::nullopt;
        for (const char *s : strings)
            out.push_back(without_blanks_behind(s != nullptr ? s : ""));
        if (count > 0)
            nc_free_string(count, strings.data());
        return out;
    }
    if (type != NC_CHAR)
        return std::nullopt;
    const auto width = shape.empty() ? 1 : shape.back();
    const auto count = std::accumulate(shape.begin(), shape.end(), std::size_t{1}, std::multiplies<>());
    if (count > most_values)
        return std::nullopt;
    std::string all(count, '\0');
    if (count > 0 && nc_get_var_text(group, id, all.data()) != NC_NOERR)
        return std::nullopt;
    for (std::size_t at = 0; width > 0 && at < all.size(); at += width) {
        auto s = all.substr(at, width);
        s.resize(std::min(s.find('\0'), s.size()));
        out.push_back(without_blanks_behind(std::move(s)));
    }
    return out;
}

std::optional<std::string> NcVariable::text_attribute(const std::string &attribute) const {
    return text_att(group, id, attribute);
}

std::optional<double> NcVariable::number_attribute(const std::string &attribute) const {
    double value = 0;
    std::size_t length = 0;
    if (nc_inq_attlen(group, id, attribute.c_str(), &length) != NC_NOERR || length != 1 ||
        nc_get_att_double(group, id, attribute.c_str(), &value) != NC_NOERR)
        return std::nullopt;
    return value;
}

std::string NcVariable::dimension_name(std::size_t i) const {
    std::string text(NC_MAX_NAME + 1, '\0');
    if (nc_inq_dimname(group, dimension.at(i), text.data()) != NC_NOERR)
        return {};
    text.resize(text.find('\0'));
    return text;
}

std::optional<NcGroup> NcGroup::child(const std::string &child_name) const {
    int child_id = 0;
    if (nc_inq_grp_ncid(id, child_name.c_str(), &child_id) != NC_NOERR)
        return std::nullopt;
    return NcGroup{child_id, child_name, path == "/" ? "/" + child_name : path + "/" + child_name};
}

std::vector<NcGroup> NcGroup::children() const {
    int count = 0;
    if (nc_inq_grps(id, &count, nullptr) != NC_NOERR || count <= 0)
        return {};
    std::vector<int> ids(static_cast<std::size_t>(count));
    nc_inq_grps(id, &count, ids.data());
    std::vector<NcGroup> groups;
    for (const int g : ids) {
        std::string text(NC_MAX_NAME + 1, '\0');
        if (nc_inq_grpname(g, text.data()) != NC_NOERR)
            continue;
        text.resize(text.find('\0'));
        groups.push_back({g, text, path == "/" ? "/" + text : path + "/" + text});
    }
    return groups;
}

std::optional<NcVariable> NcGroup::variable(const std::string &variable_name) const {
    NcVariable v;
    v.group = id;
    if (nc_inq_varid(id, variable_name.c_str(), &v.id) != NC_NOERR)
        return std::nullopt;
    int dimensions = 0;
    if (nc_inq_var(id, v.id, nullptr, &v.type, &dimensions, nullptr, nullptr) != NC_NOERR)
        return std::nullopt;
    v.name = variable_name_of(id, v.id);
    v.dimension.resize(static_cast<std::size_t>(dimensions));
    nc_inq_vardimid(id, v.id, v.dimension.data());
    for (const int d : v.dimension) {
        std::size_t length = 0;
        if (nc_inq_dimlen(id, d, &length) != NC_NOERR)
            return std::nullopt;
        v.shape.push_back(length);
    }
    v.base_type = v.type;
    if (v.type > NC_MAX_ATOMIC_TYPE) {
        int type_class = 0;
        nc_type base = NC_NAT;
        if (nc_inq_user_type(id, v.type, nullptr, nullptr, &base, nullptr, &type_class) == NC_NOERR) {
            v.base_type = base;
            v.variable_length = type_class == NC_VLEN;
        }
    }
    return v;
}

std::optional<std::string> NcGroup::text_attribute(const std::string &attribute) const {
    return text_att(id, NC_GLOBAL, attribute);
}

Result<NcFile> NcFile::open(const std::filesystem::path &path) {
    const std::scoped_lock hold(netcdf_lock());
    std::error_code error;
    if (!std::filesystem::exists(path, error))
        return fail(told("{}: there is no such file", path.string()));
    if (std::filesystem::is_directory(path, error))
        return fail(told("{}: this is a folder, not a recording", path.string()));
    if (!std::filesystem::is_regular_file(path, error))
        return fail(told("{}: this is no file, but a pipe or a device", path.string()));
    if (std::filesystem::file_size(path, error) == 0 && !error)
        return fail(told("{}: the file is empty and holds no ping", path.string()));
    quiet_netcdf();
    if (auto checked = check_hdf5(path); !checked)
        return tl::unexpected(checked.error());
    int id = -1;
    if (const int status = nc_open(path.c_str(), NC_NOWRITE, &id); status != NC_NOERR)
        return fail(told("{}: this is no netCDF file, or it is damaged or cut short ({})", path.string(),
                         nc_strerror(status)),
                    "nothing was read", "copy it again from where it was recorded");
    return NcFile(id);
}

NcFile::NcFile(NcFile &&other) noexcept : id_(std::exchange(other.id_, -1)) {}

NcFile &NcFile::operator=(NcFile &&other) noexcept {
    std::swap(id_, other.id_);
    return *this;
}

NcFile::~NcFile() {
    if (id_ < 0)
        return;
    const std::scoped_lock hold(netcdf_lock());
    nc_close(id_);
}

} // namespace heron
