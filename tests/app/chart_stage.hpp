// A chart of the sample, in the real window.
#pragma once

#include "stage.hpp"

#include "views/chart/chart_sheet_view.hpp"
#include "views/chart/chart_view.hpp"

#include <algorithm>
#include <cstdlib>

namespace heron::test {

class ChartStage : public Stage {
  protected:
    app::ChartView &view() { return window->view<app::ChartView>(); }
    app::ChartSheetView &sheet() { return view().sheet(); }
    app::ChartMaker &maker() { return program->chart; }

    void open() {
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(sample()));
        ASSERT_TRUE(wait_for([&] { return session().sources.flow() == app::Sources::Flow::ended; }, 60000));
        key(Qt::Key_5);
        ASSERT_TRUE(wait_for([&] { return maker().finished(); }, 60000));
        ASSERT_TRUE(wait_for([&] { return sheet().boat().has_value(); }));
        QTest::qWait(300);
    }
    // Some metres from the boat, to the east and north.
    QPoint beside(double east, double north) {
        const auto at = *sheet().boat();
        return sheet().positionOf({at.east_m + east, at.north_m + north}).toPoint();
    }
};

// To a shade: a figure that is drawn for the first time has edges that differ by a few levels from those of
// later.
inline bool alike(const QImage &a, const QImage &b) {
    constexpr int shade = 12;
    if (a.size() != b.size())
        return false;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) {
            const auto p = a.pixel(x, y), q = b.pixel(x, y);
            if (std::max({std::abs(qRed(p) - qRed(q)), std::abs(qGreen(p) - qGreen(q)),
                          std::abs(qBlue(p) - qBlue(q))}) > shade)
                return false;
        }
    return true;
}

} // namespace heron::test
