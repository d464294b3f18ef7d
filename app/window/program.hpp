// All that there is one of, however many windows look at it: the session and the models over it.
#pragma once

#include "around/bow.hpp"
#include "around/head_watch.hpp"
#include "chart/backdrops.hpp"
#include "chart/chart_maker.hpp"
#include "chart/spots.hpp"
#include "marks/mark_library.hpp"
#include "marks/mark_share.hpp"
#include "passes/pass_planner.hpp"
#include "reading/circle_reader.hpp"
#include "reading/contact_reader.hpp"
#include "session/session.hpp"
#include "speech/speaker.hpp"
#include "tuning/tuner.hpp"
#include "way/hazard_watch.hpp"
#include "way/way.hpp"

namespace heron::app {

struct Program {
    Session session;
    MarkLibrary marks{session};
    MarkShare share{session, marks};
    ContactReader reader{session};
    Tuner tuner{session};
    PassPlanner planner{session, tuner, reader, marks};
    CircleReader circle{session};
    Bow bow{session, marks, circle};
    HeadWatch head_watch{session};
    ChartMaker chart{session};
    Spots spots{session, chart, reader, marks};
    Backdrops backdrops{session, chart};
    Speaker speaker{session, reader, planner, bow};
    HazardWatch hazards{session, marks, speaker};
    Way way{session, marks, speaker};
};

} // namespace heron::app
