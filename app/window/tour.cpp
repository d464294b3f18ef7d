#include "window/tour.hpp"

#include "kit/theme.hpp"
#include "parts/picture_view.hpp"
#include "reading/contact_reader.hpp"
#include "views/around/around_view.hpp"
#include "views/around/circle_picture.hpp"
#include "views/log/log_view.hpp"
#include "views/marks/marks_view.hpp"
#include "views/practice/practice_view.hpp"
#include "views/prepare/prepare_view.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"
#include "views/scan/scan_view.hpp"
#include "views/trips/trips_view.hpp"
#include "window/main_window.hpp"

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
    Tour(MainWindow &window, QString folder)
        : window_(window), session_(window.context().session), folder_(std::move(folder)) {
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
        bool may_fail = false; ///< what chance may not bring: the step is then left out
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
        if (!window_.grab().save(folder_ + QLatin1Char('/') + name + QStringLiteral(".png")))
            fail(name);
    }
    void fail(const QString &what) {
        QTextStream(stderr) << "tour: " << what << " failed at step " << at_ << '\n';
        good_ = false;
    }
    void press(const char *name) {
        if (auto *w = window_.findChild<QWidget *>(QString::fromLatin1(name)))
            click(w);
        else
            fail(QString::fromLatin1(name));
    }
    // Draws the measure from echo top to shadow end on the row of a time after the start.
    void drawMeasure(std::size_t row, Side side, double top, double end) {
        auto &picture = window_.view<ScanView>().picture();
        const auto a = picture.positionOf(row, side, top), b = picture.positionOf(row, side, end);
        mouse(&picture, QEvent::MouseButtonPress, a);
        mouse(&picture, QEvent::MouseMove, (a + b) / 2);
        mouse(&picture, QEvent::MouseMove, b);
        mouse(&picture, QEvent::MouseButtonRelease, b);
    }
    static bool atOnce() { return true; }
    void when(std::function<bool()> ready, std::function<void()> act) {
        steps_.push_back({std::move(ready), std::move(act)});
    }
    void plan();
    void planScan();
    void planMarksAndRead();
    void planFinds();
    void planAround();
    void planChart();
    void planLogAndPractice();
    void planRest();
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
            if (step.may_fail && waited_.elapsed() > 15000) {
                waited_.restart();
                ++at_;
            } else if (waited_.elapsed() > 120000) {
                QTextStream(stderr) << "tour: step " << at_ << " waited two minutes in vain, at row "
                                    << session_.shown.scan().end() << ' ' << session_.sources.stateText()
                                    << '\n';
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
    Session &session_;
    QString folder_;
    std::vector<Step> steps_;
    std::size_t at_ = 0;
    QTimer timer_;
    QElapsedTimer waited_;
    bool good_ = true, found_ = false;
};

// Strong echo with a dark behind it: the contact between two rows that a beginner would measure first.
// Handles go where the levels, over five rows and five samples, cross half-way to what is usual at that
// range.
std::optional<MeasureHandles> obviousShadow(const Scan &scan, std::size_t first, std::size_t last, Side side,
                                            double from_m, double to_m, double least_shadow_m) {
    const auto &newest = scan.ping(last);
    const auto k0 = static_cast<std::size_t>(std::max(0.0, newest.sample_at(from_m))),
               k1 = static_cast<std::size_t>(newest.sample_at(to_m));
    const auto rows = last + 1 - first;
    std::vector<double> sum(rows * k1, 0), usual(k1, 0);
    for (std::size_t n = 0; n < rows; ++n) {
        const auto *beam = scan.ping(first + n).beam(side);
        if (beam == nullptr || beam->code.size() < k1 + 5)
            return std::nullopt;
        for (std::size_t k = k0; k < k1; ++k) {
            for (std::size_t i = k; i < k + 5; ++i)
                sum[n * k1 + k] += beam->scale.db(beam->code[i]) / 5;
            usual[k] += sum[n * k1 + k] / static_cast<double>(rows);
        }
    }
    const auto over = [&](std::size_t n, std::size_t k) {
        double v = 0;
        for (std::size_t m = n - 2; m <= n + 2; ++m)
            v += (sum[m * k1 + k] - usual[k]) / 5;
        return v;
    };
    std::optional<MeasureHandles> best;
    double best_score = 0;
    for (std::size_t n = 2; n + 2 < rows; ++n) {
        for (auto k = k0; k < k1; ++k) {
            if (over(n, k) < 9)
                continue;
            auto dark = k + 1;
            while (dark < k1 && over(n, dark) > -4)
                ++dark;
            auto end = dark;
            while (end < k1 && over(n, end) < -4)
                ++end;
            const double length = static_cast<double>(end - dark) * newest.metres_per_sample();
            if (dark < k + 60 && end < k1 && length >= least_shadow_m &&
                over(n, k + 2) + 4 * length > best_score) {
                best_score = over(n, k + 2) + 4 * length;
                // A window of five samples is half-way over a step two samples before it.
                best = MeasureHandles{first + n,
                                      side,
                                      newest.slant_m(static_cast<double>(dark + 2)),
                                      newest.slant_m(static_cast<double>(end + 2)),
                                      0,
                                      false};
            }
            k = end;
        }
    }
    return best;
}

void Tour::plan() {
    planScan();
    planMarksAndRead();
    planFinds();
    planRest();
    planAround();
    planChart();
}

void Tour::planScan() {
    const auto rows = [this](std::size_t n) {
        return [this, n] { return session_.shown.scan().end() >= n; };
    };
    when(rows(120), [this] {
        for (const char *key : {"wind1", "sky0", "clarity1", "level1", "keepConditions"})
            press(key);
    });
    when(rows(480), [] {});
    steps_.push_back({atOnce, [this] { press("freeze"); }});
    steps_.push_back(
        {[this] { return window_.view<ScanView>().picture().frozen(); }, [this] { press("measure"); }});
    steps_.push_back({[this] { return window_.view<ScanView>().picture().measuring(); },
                      [this] {
                          // The boat runs on: newer rows stand above the frozen picture.
                          auto &picture = window_.view<ScanView>().picture();
                          const auto &scan = session_.shown.scan();
                          const auto oldest = picture.rowAtY(picture.height() - 1).value_or(scan.first());
                          const auto found =
                              obviousShadow(scan, oldest, picture.topRow(), Side::starboard, 7, 20, 0.8);
                          if (found)
                              drawMeasure(found->row, found->side, found->top_m, found->end_m);
                          else
                              fail(QStringLiteral("finding a shadow"));
                      }});
    steps_.push_back({[this] { return window_.view<ScanView>().picture().handles().has_value(); },
                      [this] { shoot(QStringLiteral("measure")); }});
    steps_.push_back({atOnce, [this] { press("markStructure"); }});
    steps_.push_back(
        {[this] { return !window_.context().marks.all().empty(); }, [this] { press("measure"); }});
    steps_.push_back({[this] { return !window_.view<ScanView>().picture().measuring(); },
                      [this] {
                          auto &picture = window_.view<ScanView>().picture();
                          mouse(&picture, QEvent::MouseButtonPress, {picture.width() * 0.2, 240});
                          mouse(&picture, QEvent::MouseButtonRelease, {picture.width() * 0.2, 240});
                          press("markBottom");
                      }});
    when(atOnce, [this] { press("freeze"); });
    when(rows(760), [this] { shoot(QStringLiteral("scan")); });
    when(atOnce, [this] { press("strip"); });
    when(atOnce, [this] { press("pictureTab"); });
    when(atOnce, [this] { press("strip"); });
    when(atOnce, [this] { press("sounderTab"); });
    when(atOnce, [this] { press("down"); });
    when(rows(900), [this] { shoot(QStringLiteral("down")); });
    when(atOnce, [this] { press("down"); });
}

void Tour::planMarksAndRead() {
    steps_.push_back({atOnce, [this] { Theme::instance().setLight(Light::noon); }});
    steps_.push_back({atOnce, [this] { shoot(QStringLiteral("scan-noon")); }});
    steps_.push_back({atOnce, [this] { Theme::instance().setLight(Light::dusk); }});
    steps_.push_back({atOnce, [this] { shoot(QStringLiteral("scan-dusk")); }});
    steps_.push_back({atOnce, [this] {
                          Theme::instance().setLight(Light::mist);
                          mouse(&window_.rail(), QEvent::MouseButtonPress,
                                window_.rail().rectOf(place::marks).center());
                      }});
    steps_.push_back({[this] { return window_.current() == place::marks; },
                      [this] {
                          if (!window_.context().marks.all().empty())
                              window_.state().selectMark(
                                  QString::fromStdString(window_.context().marks.all().front().id));
                      }});
    steps_.push_back({atOnce, [this] {
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
    steps_.push_back({[this] {
                          return !window_.context().marks.all().empty() &&
                                 window_.context().marks.all().front().name == "Gate boulder";
                      },
                      [this] { shoot(QStringLiteral("marks")); }});
    when([this] { return window_.context().reader.contacts().size() > 8; },
         [this] { window_.go(place::read); });
    // The selected one: the surest thing that threw a shadow.
    steps_.push_back(
        {atOnce, [this] {
             const auto &shown = window_.view<ReadView>().shown();
             const auto best = std::max_element(shown.begin(), shown.end(), [](const auto *a, const auto *b) {
                 return (a->height_m ? a->behind.score : 0) < (b->height_m ? b->behind.score : 0);
             });
             for (auto at = shown.begin(); at < best; ++at)
                 click(window_.findChild<QWidget *>(QStringLiteral("readNext")));
         }});
    when([this] { return window_.view<ReadView>().selected() != nullptr; },
         [this] { shoot(QStringLiteral("read-tall")); });
    when(atOnce, [this] { press("pageWhy"); });
    when(atOnce, [this] { shoot(QStringLiteral("read-why")); });
    when(atOnce, [this] { press("pageFish"); });
    when(atOnce, [this] { shoot(QStringLiteral("read-fish")); });
    when(atOnce, [this] { press("pagePick"); });
    when(atOnce, [this] { shoot(QStringLiteral("read-pick")); });
    when(atOnce, [this] { press("pageWhat"); });
    // The first for which a second look pays.
    when(atOnce, [this] {
        const auto &shown = window_.view<ReadView>().shown();
        for (auto i = std::ssize(shown); i > 0 && window_.view<ReadView>().selected() != shown.front(); --i)
            click(window_.findChild<QWidget *>(QStringLiteral("readBefore")));
    });
    for (int i = 0; i < 40; ++i)
        when(atOnce, [this] {
            auto &view = window_.view<ReadView>();
            if (const auto plan = view.side().plan();
                (!plan || plan->settles < 0.1) && view.selected() != view.shown().back())
                click(window_.findChild<QWidget *>(QStringLiteral("readNext")));
        });
    when(atOnce, [this] { shoot(QStringLiteral("read")); });
    when(atOnce, [this] {
        if (window_.view<ReadView>().side().plan())
            press("runSecondLook");
        else
            fail(QStringLiteral("finding a doubt"));
    });
    when([this] { return window_.current() == place::scan; },
         [this] { shoot(QStringLiteral("second-look")); });
    when(atOnce, [this] { press("cueEnd"); });
    when(atOnce, [this] { window_.go(place::read); });
    when(atOnce, [this] { press("readPasses"); });
    when(atOnce, [this] { shoot(QStringLiteral("read-passes")); });
}

void Tour::planFinds() {
    // The old channel that the boat runs over, and the flooded alder with a grain of its own.
    // Whether a grain in a tree shows hangs on the noise of the day.
    found_ = false;
    const auto step_to = [this](const auto &wanted, bool may_fail) {
        const auto at = [this, wanted] {
            const auto &shown = window_.view<ReadView>().shown();
            return std::find_if(shown.begin(), shown.end(), wanted);
        };
        steps_.push_back({[this] {
                              found_ = false;
                              return true;
                          },
                          [] {}});
        steps_.push_back({[this, at] { return at() != window_.view<ReadView>().shown().end(); },
                          [this, at] {
                              found_ = true;
                              auto &view = window_.view<ReadView>();
                              const auto &shown = view.shown();
                              const auto selected = std::find(shown.begin(), shown.end(), view.selected());
                              for (auto from = selected, to = at(); from != to; from < to ? ++from : --from)
                                  click(window_.findChild<QWidget *>(
                                      from < to ? QStringLiteral("readNext") : QStringLiteral("readBefore")));
                          },
                          may_fail});
    };
    step_to([](const Contact *c) { return !c->maybe_fish.empty() && !c->provisional; }, true);
    when(atOnce, [this] { press("pageFish"); });
    when(atOnce, [this] {
        if (found_)
            shoot(QStringLiteral("read-wood"));
    });
    when(atOnce, [this] { press("pageWhat"); });
    step_to([](const Contact *c) { return c->zone == Zone::track && !c->provisional; }, false);
    when(atOnce, [this] { shoot(QStringLiteral("read-drop")); });
}

// The boat runs to its spot, holds, and somebody aims.
void Tour::planAround() {
    when(atOnce, [this] { window_.go(place::around); });
    when(
        [this] {
            const auto &head = session_.head.hello();
            return head && head->steers;
        },
        [this] { press("hold"); });
    auto &bow = window_.context().bow;
    const auto holds = [&bow] { return bow.speed().value_or(9) < standing_m_s; };
    const auto turns = std::make_shared<std::size_t>(0);
    when(holds, [&bow, turns] { *turns = bow.rays().sweep() + 4; });
    when([&bow, turns, holds] { return bow.rays().sweep() >= *turns && holds(); },
         [this, &bow] {
             auto &circle = window_.view<AroundView>().picture();
             const auto at = circle.positionOf(bow.pose().from({7, 6}));
             mouse(&circle, QEvent::MouseButtonPress, at);
             mouse(&circle, QEvent::MouseButtonRelease, at);
         });
    when(atOnce, [this] { shoot(QStringLiteral("around")); });
    when([&bow] { return bow.aim().has_value(); }, [this] { press("castLarge"); });
    when(atOnce, [this] { shoot(QStringLiteral("cast")); });
    when(atOnce, [this] { press("castLarge"); });
    when(atOnce, [this] { press("yourBoat"); });
    when(atOnce, [this] { shoot(QStringLiteral("boat")); });
    when(atOnce, [this] { press("boatDone"); });
}

// The chart of what was scanned so far.
void Tour::planChart() {
    when(atOnce, [this] { window_.go(place::chart); });
    when([this] { return window_.context().chart.sheet() != nullptr; }, [this] { press("fitChart"); });
    when(atOnce, [this] { shoot(QStringLiteral("chart")); });
}

// Some visits are told, and a question answered.
void Tour::planLogAndPractice() {
    when(atOnce, [this] {
        auto &marks = window_.context().marks;
        auto all = marks.all();
        std::size_t n = 0;
        for (auto &m : all) {
            Outcome o;
            o.what = n % 3 == 0   ? Outcome::What::landed
                     : n % 3 == 1 ? Outcome::What::bite
                                  : Outcome::What::fished;
            o.time = m.time + static_cast<UnixNs>(40 + 25 * n) * ns_per_s;
            o.species = n % 2 == 0 ? "zander" : "perch";
            if (o.what == Outcome::What::landed)
                o.length_m = 0.61;
            o.released = o.length_m.has_value();
            m.outcomes.push_back(o);
            ++n;
        }
        marks.changeAll(all);
        window_.go(place::log);
    });
    when(
        [this] {
            auto &log = window_.view<LogView>();
            const auto &days = log.book().days();
            return !log.book().looking() && log.day() < days.size() &&
                   log.book().afloat(days[log.day()].date) != nullptr;
        },
        [this] {
            auto &log = window_.view<LogView>();
            log.book().setAboard(log.book().days()[log.day()].date, QStringLiteral("Ida and Bram"));
            shoot(QStringLiteral("log"));
        });
    when(atOnce, [this] { window_.go(place::practice); });
    when(atOnce, [this] { press("nextQuestion"); });
    when([this] { return window_.view<PracticeView>().trainer().asked(); }, [this] { press("choice0"); });
    when([this] { return window_.view<PracticeView>().trainer().answered().has_value(); },
         [this] { shoot(QStringLiteral("practice")); });
}

void Tour::planRest() {
    when(atOnce, [this] { window_.go(place::prepare); });
    when([this] { return window_.view<PrepareView>().answer().has_value(); },
         [this] { shoot(QStringLiteral("prepare")); });
    planLogAndPractice();
    when(atOnce, [this] { window_.go(place::connections); });
    when([this] { return session_.connections.clockDifference().has_value(); },
         [this] { shoot(QStringLiteral("connections")); });
    when(atOnce, [this] { window_.go(place::trips); });
    when([this] { return !window_.view<TripsView>().trips().empty(); },
         [this] { shoot(QStringLiteral("trips")); });
    steps_.push_back({atOnce, [this] {
                          if (!window_.context().marks.exportMarks(folder_ + QStringLiteral("/marks.gpx")))
                              fail(QStringLiteral("export"));
                      }});
}

} // namespace

void startTour(MainWindow &window, const QString &folder) {
    new Tour(window, folder);
}

} // namespace heron::app
