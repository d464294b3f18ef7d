#include "tour.hpp"

#include "main_window.hpp"
#include "marks/mark_wall.hpp"
#include "marks/marks_view.hpp"
#include "scan/picture_view.hpp"
#include "scan/scan_view.hpp"
#include "theme.hpp"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QTextStream>
#include <QTimer>
#include <functional>

namespace heron::app {
namespace {

// Steps one after the other; each waits until its condition holds, then acts.
class Tour : public QObject {
  public:
    Tour(MainWindow &window, Survey &survey, QString folder)
        : window_(window), survey_(survey), folder_(std::move(folder)) {
        QDir().mkpath(folder_);
        plan();
        connect(&timer_, &QTimer::timeout, this, &Tour::next);
        timer_.start(50);
        waited_.start();
    }

  private:
    struct Step {
        std::function<bool()> ready;
        std::function<void()> act;
    };

    static void type(QWidget *to, int code, const QString &text = {}) {
        QApplication::postEvent(to, new QKeyEvent(QEvent::KeyPress, code, Qt::NoModifier, text));
        QApplication::postEvent(to, new QKeyEvent(QEvent::KeyRelease, code, Qt::NoModifier, text));
    }
    static void click(QWidget *w) {
        const QPointF at = w->rect().center();
        mouse(w, QEvent::MouseButtonPress, at);
        mouse(w, QEvent::MouseButtonRelease, at);
    }
    static void mouse(QWidget *w, QEvent::Type type, QPointF at) {
        const auto button = type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton;
        const auto held = type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton;
        QMouseEvent event(type, at, w->mapToGlobal(at), button, held, Qt::NoModifier);
        QApplication::sendEvent(w, &event);
    }
    void shoot(const QString &name) {
        good_ = window_.grab().save(folder_ + QLatin1Char('/') + name + QStringLiteral(".png")) && good_;
    }
    void press(const char *name) {
        if (auto *w = window_.findChild<QWidget *>(QString::fromLatin1(name)))
            click(w);
        else
            good_ = false;
    }
    // Draws the measure from echo top to shadow end on the row of a time after the start.
    void drawMeasure(std::size_t row, Side side, double top, double end) {
        auto &picture = window_.scanView().picture();
        const auto a = picture.positionOf(row, side, top), b = picture.positionOf(row, side, end);
        mouse(&picture, QEvent::MouseButtonPress, a);
        mouse(&picture, QEvent::MouseMove, (a + b) / 2);
        mouse(&picture, QEvent::MouseMove, b);
        mouse(&picture, QEvent::MouseButtonRelease, b);
    }
    void plan();
    void next() {
        if (at_ == steps_.size()) {
            QTextStream(stdout) << (good_ ? "tour: done, pictures are in " : "tour: a step failed, see ")
                                << folder_ << '\n';
            QApplication::exit(good_ ? 0 : 1);
            timer_.stop();
            return;
        }
        auto &step = steps_[at_];
        if (!step.ready()) {
            if (waited_.elapsed() > 120000) {
                QTextStream(stderr) << "tour: step " << at_ << " waited two minutes in vain\n";
                good_ = false;
                at_ = steps_.size();
            }
            return;
        }
        waited_.restart();
        ++at_;
        step.act();
    }

    MainWindow &window_;
    Survey &survey_;
    QString folder_;
    std::vector<Step> steps_;
    std::size_t at_ = 0;
    QTimer timer_;
    QElapsedTimer waited_;
    bool good_ = true;
};

// Strong echo with a dark behind it: the contact of the last rows that a beginner would measure first.
// Handles go where the levels step, on the row where the echo is strongest.
std::optional<MeasureHandles> obviousShadow(const Scan &scan, Side side, double from_m, double to_m,
                                            double least_shadow_m) {
    std::optional<MeasureHandles> best;
    double best_score = 0;
    const auto first = std::max(scan.first(), scan.end() > 600 ? scan.end() - 600 : std::size_t{0});
    for (auto n = first; n < scan.end(); ++n) {
        const auto &ping = scan.row(n).ping;
        const auto *beam = ping.beam(side);
        if (beam == nullptr || !scan.row(n).bottom.found)
            continue;
        const double median = scan.levels().bottom_quantile_db(0.5);
        const auto k0 = static_cast<std::size_t>(std::max(0.0, ping.sample_at(from_m))),
                   k1 = std::min(beam->code.size(), static_cast<std::size_t>(ping.sample_at(to_m)));
        // Five-sample means, bright above the bottom, then dark below it.
        const auto mean = [&](std::size_t k) {
            double s = 0;
            for (std::size_t i = k; i < k + 5; ++i)
                s += beam->scale.db(beam->code[i]);
            return s / 5;
        };
        for (auto k = k0; k + 40 < k1; ++k) {
            if (mean(k) < median + 11)
                continue;
            auto end = k + 3;
            while (end + 5 < k1 && mean(end) > median - 4)
                ++end;
            if (end > k + 60)
                continue;
            const auto dark = end;
            while (end + 5 < k1 && mean(end) < median - 4)
                ++end;
            const double length = static_cast<double>(end - dark) * ping.metres_per_sample();
            if (length < least_shadow_m || end + 5 >= k1)
                continue;
            const double score = mean(k + 2) - median + 4 * length;
            if (score > best_score) {
                best_score = score;
                best = MeasureHandles{
                    n, side, ping.slant_m(static_cast<double>(dark)), ping.slant_m(static_cast<double>(end)),
                    0, false};
            }
            k = end;
        }
    }
    return best;
}

void Tour::plan() {
    const auto rows = [this](std::size_t n) { return [this, n] { return survey_.scan().end() >= n; }; };
    const auto at_once = [] { return true; };
    steps_.push_back({rows(500), [this] { shoot(QStringLiteral("scan")); }});
    steps_.push_back({at_once, [this] { press("freeze"); }});
    steps_.push_back(
        {[this] { return window_.scanView().picture().frozen(); }, [this] { press("measure"); }});
    steps_.push_back({[this] { return window_.scanView().picture().measuring(); },
                      [this] {
                          const auto found = obviousShadow(survey_.scan(), Side::starboard, 7, 22, 0.8);
                          if (found)
                              drawMeasure(found->row, found->side, found->top_m, found->end_m);
                          good_ = good_ && found;
                      }});
    steps_.push_back({[this] { return window_.scanView().picture().handles().has_value(); },
                      [this] { shoot(QStringLiteral("measure")); }});
    steps_.push_back({at_once, [this] { press("markStructure"); }});
    steps_.push_back({[this] { return !survey_.marks().empty(); }, [this] { press("measure"); }});
    steps_.push_back({[this] { return !window_.scanView().picture().measuring(); },
                      [this] {
                          auto &picture = window_.scanView().picture();
                          mouse(&picture, QEvent::MouseButtonPress, {picture.width() * 0.2, 240});
                          mouse(&picture, QEvent::MouseButtonRelease, {picture.width() * 0.2, 240});
                          press("markBottom");
                      }});
    steps_.push_back({at_once, [this] { Theme::instance().setLight(Light::noon); }});
    steps_.push_back({at_once, [this] { shoot(QStringLiteral("scan-noon")); }});
    steps_.push_back({at_once, [this] { Theme::instance().setLight(Light::dusk); }});
    steps_.push_back({at_once, [this] { shoot(QStringLiteral("scan-dusk")); }});
    steps_.push_back({at_once, [this] {
                          Theme::instance().setLight(Light::mist);
                          mouse(&window_.spine(), QEvent::MouseButtonPress, {36.0, 5 * 80.0 + 40});
                      }});
    steps_.push_back({[this] { return window_.spine().current() == Place::marks; },
                      [this] {
                          if (!survey_.marks().empty())
                              survey_.selectMark(QString::fromStdString(survey_.marks().front().id));
                      }});
    steps_.push_back({at_once, [this] {
                          auto *name = window_.findChild<QLineEdit *>(QStringLiteral("markName"));
                          name->setFocus();
                          name->selectAll();
                          for (const QChar c : QStringLiteral("Gate boulder"))
                              type(name, 0, c);
                      }});
    steps_.push_back(
        {[this] {
             return window_.findChild<QLineEdit *>(QStringLiteral("markName"))->text() ==
                    QLatin1String("Gate boulder");
         },
         [this] { type(window_.findChild<QLineEdit *>(QStringLiteral("markName")), Qt::Key_Return); }});
    steps_.push_back(
        {[this] { return !survey_.marks().empty() && survey_.marks().front().name == "Gate boulder"; },
         [this] { shoot(QStringLiteral("marks")); }});
    steps_.push_back(
        {at_once, [this] { good_ = survey_.exportMarks(folder_ + QStringLiteral("/marks.gpx")) && good_; }});
}

} // namespace

void startTour(MainWindow &window, Survey &survey, const QString &folder) {
    new Tour(window, survey, folder);
}

} // namespace heron::app
