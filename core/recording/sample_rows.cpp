#include "recording/sample_rows.hpp"

#include <algorithm>
#include <netcdf.h>

namespace heron {
namespace {

constexpr std::size_t most_samples = 4'000'000; // of a beam
constexpr std::size_t most_kept = 2'000'000;    // samples that are kept at once

template <class T>
void append(const nc_vlen_t &v, std::vector<double> &out) {
    const auto *p = static_cast<const T *>(v.p);
    out.assign(p, p + v.len);
}

bool append_as(int base, const nc_vlen_t &v, std::vector<double> &out) {
    switch (base) {
    case NC_UBYTE:
        append<unsigned char>(v, out);
        return true;
    case NC_BYTE:
        append<signed char>(v, out);
        return true;
    case NC_USHORT:
        append<unsigned short>(v, out);
        return true;
    case NC_SHORT:
        append<short>(v, out);
        return true;
    case NC_UINT:
        append<unsigned>(v, out);
        return true;
    case NC_INT:
        append<int>(v, out);
        return true;
    case NC_UINT64:
        append<unsigned long long>(v, out);
        return true;
    case NC_INT64:
        append<long long>(v, out);
        return true;
    case NC_FLOAT:
        append<float>(v, out);
        return true;
    case NC_DOUBLE:
        append<double>(v, out);
        return true;
    default:
        return false;
    }
}

} // namespace

// Either cells of variable length or a block of numbers; `count` rows from `first` on.
struct SampleRows::Rows {
    std::size_t first = 0, count = 0;
    std::vector<nc_vlen_t> cells;
    std::vector<double> numbers;

    Rows() = default;
    Rows(const Rows &) = delete;
    Rows &operator=(const Rows &) = delete;
    ~Rows() {
        if (!cells.empty())
            nc_free_vlens(cells.size(), cells.data());
    }
    bool holds(std::size_t row) const { return row >= first && row - first < count; }
    std::size_t samples() const {
        std::size_t n = numbers.size();
        for (const auto &c : cells)
            n += c.len;
        return n;
    }
};

SampleRows::SampleRows(NcVariable variable, std::size_t beams)
    : variable_(std::move(variable)), beams_(beams) {
    if (!variable_.variable_length && variable_.shape.back() > 0)
        at_once_ = std::clamp<std::size_t>(most_kept / (beams_ * variable_.shape.back()), 1, at_once_);
}

void SampleRows::may_read_together(std::size_t first, std::size_t last) {
    if (first == together_first_ && last == together_last_)
        return;
    together_first_ = first;
    together_last_ = last;
    kept_.reset();
}

std::shared_ptr<const SampleRows::Rows> SampleRows::fetch(std::size_t first, std::size_t count) const {
    auto rows = std::make_shared<Rows>();
    rows->first = first;
    rows->count = count;
    const std::size_t start[3] = {first, 0, 0};
    if (variable_.variable_length) {
        rows->cells.assign(count * beams_, nc_vlen_t{0, nullptr});
        const std::size_t shape[2] = {count, beams_};
        if (nc_get_vara(variable_.group, variable_.id, start, shape, rows->cells.data()) != NC_NOERR)
            return nullptr;
        return rows;
    }
    const auto samples = variable_.shape.back();
    rows->numbers.resize(count * beams_ * samples);
    const std::size_t with_beams[3] = {count, beams_, samples}, without[2] = {count, samples};
    const auto *shape = variable_.shape.size() == 3 ? with_beams : without;
    if (!rows->numbers.empty() &&
        nc_get_vara_double(variable_.group, variable_.id, start, shape, rows->numbers.data()) != NC_NOERR)
        return nullptr;
    return rows;
}

Result<std::vector<std::vector<double>>> SampleRows::row(std::size_t row) const {
    auto rows = kept_;
    if (!rows || !rows->holds(row)) {
        kept_.reset();
        rows.reset();
        if (at_once_ > 1 && row >= together_first_ && row < together_last_) {
            const auto first = row - (row - together_first_) % at_once_;
            rows = fetch(first, std::min(at_once_, together_last_ - first));
            if (rows && rows->samples() <= most_kept)
                kept_ = rows;
            else
                at_once_ = 1;
        }
        if (!rows)
            rows = fetch(row, 1);
        if (!rows)
            return fail("damaged");
    }
    std::vector<std::vector<double>> out(beams_);
    for (std::size_t i = 0; i < beams_; ++i) {
        const auto n = (row - rows->first) * beams_ + i;
        if (variable_.variable_length) {
            if (rows->cells[n].len > most_samples || !append_as(variable_.base_type, rows->cells[n], out[i]))
                return fail("damaged");
        } else {
            const auto samples = variable_.shape.back();
            const auto begin = rows->numbers.begin() + static_cast<std::ptrdiff_t>(n * samples);
            out[i].assign(begin, begin + static_cast<std::ptrdiff_t>(samples));
        }
    }
    return out;
}

} // namespace heron
