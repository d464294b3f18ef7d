// Where the boat was and how it lay, at any time.
#pragma once

#include "geo/position.hpp"
#include "sonar/instant.hpp"

#include <optional>
#include <string>
#include <vector>

namespace heron {

struct PositionSample {
    UnixNs time = 0;
    GeoPoint place;
    double sd_m = 0;            ///< one sigma of east and of north; 0 when not told
    double speed_m_s = -1;      ///< over ground; negative when not told
    bool broken_before = false; ///< nothing may be interpolated between the sample before and this one
};

struct AttitudeSample {
    UnixNs time = 0;
    double heading_deg = 0; ///< true
    double pitch_deg = 0;
    double roll_deg = 0;
    bool broken_before = false;
};

struct SpeedSample {
    UnixNs time = 0;
    double m_s = 0; ///< over ground
};

struct DepthSample {
    UnixNs time = 0;
    double below_transducer_m = 0;        ///< of the depth sounder's own transducer
    std::optional<double> to_waterline_m; ///< positive: that transducer's depth under the surface
};

/// Many samples at once, in any order.
struct NavSamples {
    std::vector<PositionSample> positions;
    std::vector<AttitudeSample> attitudes;
    std::vector<DepthSample> depths;
    std::vector<SpeedSample> speeds;
};

enum class HeadingSource { compass, course_over_ground };

/// The pose of the boat at a time and where its heading came from.
struct NavFix {
    BoatPose pose;
    HeadingSource heading_source = HeadingSource::compass;
};

/// The track: samples in order of time. Positions and headings are interpolated (headings along the shorter
/// arc), held for at most 2 s beyond their ends, and never invented inside a gap of more than 2 s.
class NavTrack {
  public:
    static constexpr double longest_hold_s = 2;

    void add(const PositionSample &sample);
    void add(const AttitudeSample &sample);
    void add(const DepthSample &sample);
    void add_speed(UnixNs time, double m_s);
    void add(const NavSamples &more);

    /// The antenna's place and its doubt; nothing where it is not known.
    std::optional<PositionSample> position_at(UnixNs time) const;
    std::optional<AttitudeSample> attitude_at(UnixNs time) const;
    /// Course and speed over ground from the positions within 1.5 s; nothing when slower than 0.5 m/s or when
    /// the course bends by more than 10° there.
    struct Course {
        double bearing_deg = 0;
        double speed_m_s = 0;
    };
    std::optional<Course> course_at(UnixNs time) const;
    /// All of it; without a compass the course serves when the boat runs straight, with one sigma of
    /// atan(0.3 m/s ÷ speed) for drift to the side. Nothing when position or heading is not known.
    std::optional<NavFix> fix_at(UnixNs time) const;
    std::optional<double> speed_at(UnixNs time) const;
    /// The nearest depth-sounder reading within 3 s.
    std::optional<DepthSample> depth_at(UnixNs time) const;
    /// The same where the sounder can be believed: its neighbours within 4 s agree to a quarter, and it has
    /// not hung (alike to the bit for more than 30 s while the boat went elsewhere).
    std::optional<DepthSample> steady_depth_at(UnixNs time) const;

    const std::vector<PositionSample> &positions() const { return positions_; }
    const std::vector<AttitudeSample> &attitudes() const { return attitudes_; }
    const std::vector<DepthSample> &depths() const { return depths_; }
    const std::vector<SpeedSample> &speeds() const { return speeds_; }

    /// One sigma of a compass heading that tells nothing of its own quality.
    double compass_sd_deg = 2;
    /// One sigma (each axis) of a position that tells nothing of its own quality.
    double antenna_sd_m = 1;
    /// How late the compass tells the heading, as far as it was found out: looked up so much later.
    double compass_late_s = 0;
    /// How late positions are told, as far as it was found out: looked up so much later.
    double positions_late_s = 0;
    /// Whether the course may stand in for a compass that is there but fell silent. Live, yes: the guide is
    /// told. In a recording such pings have no place.
    bool course_serves_where_compass_fails = false;

  private:
    std::vector<PositionSample> positions_;
    std::vector<AttitudeSample> attitudes_;
    std::vector<DepthSample> depths_;
    std::vector<SpeedSample> speeds_;
};

/// Takes out of samples in time order what cannot be true: not-a-number, outside the globe, frozen while the
/// boat moves, or leaping faster than any boat. What stays is marked so that nothing is interpolated across
/// what was taken. One line for each sort of fault is added to `warnings`.
void clean_positions(std::vector<PositionSample> &samples, std::vector<std::string> &warnings);
void clean_attitudes(std::vector<AttitudeSample> &samples, std::vector<std::string> &warnings);
/// Headings beside a track: all go where they never change by a bit while the boat turns or runs elsewhere; a
/// compass that points aside of the course all the time is only told.
void compare_with_track(std::vector<AttitudeSample> &samples, const NavTrack &track,
                        std::vector<std::string> &warnings);

} // namespace heron
