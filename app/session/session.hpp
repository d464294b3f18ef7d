// One session: what is sounded, played or looked at, and all that belongs to it. Owned by main, shared by all
// windows. No widgets here.
#pragma once

#include "session/boats.hpp"
#include "session/connections.hpp"
#include "session/demo_lake.hpp"
#include "session/jobs.hpp"
#include "session/notices.hpp"
#include "session/playback.hpp"
#include "session/preferences.hpp"
#include "session/shown_scan.hpp"
#include "session/sounder.hpp"
#include "session/sources.hpp"
#include "session/stay_awake.hpp"
#include "session/trip_keeper.hpp"

namespace heron::app {

/// The parts stand in the order in which they need each other; each does one thing and speaks for itself.
struct Session {
    Notices notices;
    Preferences preferences;
    Boats boats{notices};
    Jobs storage{1}; ///< opening, closing, importing: one after the other
    Jobs jobs{2};    ///< all other long work
    ShownScan shown{StreamId::side};
    ShownScan around{StreamId::around};
    Sounder sounder{StreamId::side};
    Sounder head{StreamId::around}; ///< the turning head at the bow
    Playback playback{shown, around};
    Connections connections{notices};
    TripKeeper trip{{&shown, &around}, notices, storage};
    Sources sources{{{&shown, &around}, {&sounder, &head}, playback, trip, connections, notices, storage}};

    StayAwake awake{jobs};
    DemoLake demo{notices, trip, sources};

    Session();
    Session(const Session &) = delete;
    Session &operator=(const Session &) = delete;

    /// The guide changed what is connected: kept for the next start.
    void chooseSources(const std::vector<SourceConfig> &chosen);
    static constexpr QLatin1String sources_key{"sources"};
    /// Once at every start, where it is read and in nobody's way.
    void sayCaution();
    /// Corrects the bottom line of what is shown, keeps it with the trip, and says so.
    void correctBottom(std::size_t first, const std::vector<double> &altitudes);
    void undoBottom();
    /// The receiver tells positions so late, seconds: all places are reckoned anew, it is kept with the trip,
    /// and said.
    void setPositionsLate(double seconds);
};

} // namespace heron::app
