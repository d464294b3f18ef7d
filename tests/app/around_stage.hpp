// A boat that holds over a known spot with a boulder ahead on the right, heard by its head, in the real
// window.
#pragma once

#include "stage.hpp"

#include "views/around/around_view.hpp"
#include "views/around/cast_card.hpp"
#include "views/around/circle_picture.hpp"

#include <fstream>

namespace heron::test {

// A boulder eleven metres off: 10.25 m ahead and 4.85 m to the right of the head of a boat that points north.
inline constexpr const char *basin =
    R"({"name":"basin","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
 "terrain":{"size_m":[90,90],"depth_m":4,"ground":"silt"},
 "things":[{"kind":"boulder","at":[50,58],"length_m":1.6,"height_m":1.3}],
 "boat":{"route":[[10,45],[80,45]],"speed_m_s":1.4,"gnss_wander_m":0.02,"gnss_noise_m":0.01,"heading_noise_deg":0.1,
 "hold":{"at":[45,45],"heading_deg":0,"drift_m":0,"swing_deg":0}}})";
inline constexpr double boulder_ahead_m = 10.25, boulder_right_m = 4.85;

class AroundStage : public Stage {
  protected:
    app::CirclePicture &circle() { return window->view<app::AroundView>().picture(); }
    app::CastCard &card() { return window->view<app::AroundView>().card(); }
    app::Bow &bow() { return program->bow; }

    /// A recording of the head over the basin, played to its end, with Around shown.
    void record(int seconds = 40) {
        const auto scene = folder.file("basin.json"), recording = folder.file("basin.nc");
        std::ofstream(scene) << basin;
        const auto made =
            test::run(test::program("heron-sounder") + " " + scene + " --device head --hold --record " +
                      recording + " --seconds " + std::to_string(seconds));
        ASSERT_EQ(made.code, 0) << made.out;
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(recording));
        ASSERT_TRUE(wait_for([&] { return session().sources.flow() == app::Sources::Flow::ended; }, 60000));
        key(Qt::Key_4);
        ASSERT_TRUE(wait_for([&] { return bow().rays().rays().size() > 400; }));
        QTest::qWait(50);
    }
    QPoint at(double ahead_m, double right_m) {
        return circle().positionOf(bow().pose().from({ahead_m, right_m})).toPoint();
    }
    void press_on(QPoint spot) { QTest::mouseClick(&circle(), Qt::LeftButton, Qt::NoModifier, spot); }
};

} // namespace heron::test
