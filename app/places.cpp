#include "places.hpp"

#include "session/free_words.hpp"
#include "views/around/around_view.hpp"
#include "views/chart/chart_view.hpp"
#include "views/connections/connections_view.hpp"
#include "views/handbook/handbook_view.hpp"
#include "views/log/log_view.hpp"
#include "views/marks/marks_view.hpp"
#include "views/practice/practice_view.hpp"
#include "views/prepare/prepare_view.hpp"
#include "views/read/read_view.hpp"
#include "views/scan/scan_view.hpp"
#include "views/screen/screen_view.hpp"
#include "views/trips/trips_view.hpp"

namespace heron::app {
namespace {

template <class View>
QWidget *make(ViewContext &context, QWidget *parent) {
    return new View(context, parent);
}

} // namespace

Places allPlaces() {
    const auto glyph = [](QLatin1String id) { return QStringLiteral("place-") + id; };
    return {
        {place::prepare, tr("Prepare"), glyph(place::prepare), Qt::Key_1, true, make<PrepareView>},
        {place::scan, tr("Scan"), glyph(place::scan), Qt::Key_2, true, make<ScanView>},
        {place::read, tr("Read"), glyph(place::read), Qt::Key_3, true, make<ReadView>},
        {place::around, tr("Around"), glyph(place::around), Qt::Key_4, true, make<AroundView>},
        {place::chart, tr("Chart"), glyph(place::chart), Qt::Key_5, true, make<ChartView>},
        {place::marks, tr("Marks"), glyph(place::marks), Qt::Key_6, true, make<MarksView>},
        {place::log, tr("Log"), glyph(place::log), Qt::Key_7, true, make<LogView>},
        {place::practice, tr("Practice"), glyph(place::practice), Qt::Key_8, true, make<PracticeView>},
        {place::connections, tr("Connections"), {}, Qt::Key_I, false, make<ConnectionsView>},
        {place::trips, tr("Trips"), {}, Qt::Key_J, false, make<TripsView>},
        {place::screen, tr("A unit's screen"), {}, Qt::CTRL | Qt::Key_U, false, make<ScreenView>},
        {place::handbook, tr("Handbook"), {}, {}, false, make<HandbookView>},
    };
}

} // namespace heron::app
