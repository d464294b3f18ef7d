// One /Sonar/Beam_groupN of a recording: how its arrays lie, checked once, and its pings read row by row.
#pragma once

#include "recording/netcdf_file.hpp"
#include "recording/sample_rows.hpp"
#include "sonar/ping.hpp"

namespace heron {

class BeamGroup {
  public:
    /// In a fault, `kept` names the variable and `happened` what is wrong with it.
    static Result<BeamGroup> open(const NcGroup &group, std::vector<std::string> &warnings);

    const std::vector<std::optional<UnixNs>> &times() const { return times_; }
    const std::string &path() const { return path_; }
    const std::optional<std::string> &transducer_id() const { return transducer_id_; }
    /// All but time and sound speed of the ping in `row`.
    Result<Ping> read(std::size_t row) const;
    /// Rows `first` to `last` (exclusive) may be fetched from the file together.
    void may_read_together(std::size_t first, std::size_t last) { samples_.may_read_together(first, last); }
    bool same_samples(std::size_t row_a, std::size_t row_b) const;
    const std::vector<Side> &sides() const { return sides_; }
    /// Whether no beam of `other` looks where one of these does, and both are sampled alike.
    bool other_sides_than(const BeamGroup &other) const;

  private:
    // A value for each ping and beam, however sparsely the file tells it.
    struct Spread {
        std::vector<double> values;
        bool by_ping = false, by_beam = false;
        std::size_t beams = 1;
        bool told() const { return !values.empty(); }
        double at(std::size_t row, std::size_t beam, double otherwise) const;
        /// Takes what is no number from `least` to `most` for the one of the ping before, else after; without
        /// any that is, nothing was told. Gives how many those were, but for what was just never told.
        std::size_t mend(double least, double most, bool zero_is_untold);
    };
    static Result<Spread> spread(const NcGroup &group, const char *name, std::size_t pings,
                                 std::size_t beams);
    Result<void> read_parts(const NcGroup &group, std::size_t pings, std::size_t beams,
                            std::vector<std::string> &warnings);
    Result<void> read_sides(const NcGroup &group, std::size_t pings, std::size_t beams,
                            std::vector<std::string> &warnings);
    Result<std::vector<std::vector<double>>> raw(std::size_t row) const;

    std::string path_;
    std::optional<std::string> transducer_id_;
    SampleRows samples_;
    NcPacking stored_; ///< how samples lie in the file
    std::vector<std::optional<UnixNs>> times_;
    std::vector<Side> sides_;
    Spread interval_, offset_, blanking_, x_, y_, z_, along_, along_tx_, across_, gain_, start_, stop_,
        pulse_;
    enum class Unit { count, decibel, amplitude } unit_ = Unit::count;
    double db_at_zero_ = 0, db_per_count_ = 1;
    std::optional<double> count_max_;
    bool direct_ = false; ///< counts are small whole numbers and serve as codes as they are
};

} // namespace heron
