// What every view may ask for: the session, the models over it, and the window that the view stands in.
#pragma once

#include "around/bow.hpp"
#include "around/head_watch.hpp"
#include "chart/backdrops.hpp"
#include "chart/chart_maker.hpp"
#include "chart/spots.hpp"
#include "marks/mark_library.hpp"
#include "marks/mark_share.hpp"
#include "passes/pass_planner.hpp"
#include "reading/contact_reader.hpp"
#include "session/session.hpp"
#include "session/window_state.hpp"
#include "speech/speaker.hpp"
#include "tuning/tuner.hpp"
#include "way/way.hpp"

namespace heron::app {

struct ViewContext {
    Session &session;
    MarkLibrary &marks;
    MarkShare &share;
    ContactReader &reader;
    Tuner &tuner;
    PassPlanner &planner;
    Bow &bow;
    HeadWatch &head_watch;
    ChartMaker &chart;
    Spots &spots;
    Backdrops &backdrops;
    Way &way;
    Speaker &speaker;
    WindowState &window;
};

} // namespace heron::app
