// The place Prepare: the water, the gear, the purpose; and what each setting buys, before the trip.
#pragma once

#include "parts/view_context.hpp"

#include <QFutureWatcher>
#include <QTimer>
#include <QWidget>
#include <array>

namespace heron::app {

class GearEditor;
class KeyButton;

/// The question, and the answers for all purposes.
struct Preparation {
    Gear gear;
    WaterState water;
    SmallestThing thing;
    Purpose purpose = Purpose::search_wide;
    ReadBy read_by = ReadBy::eye;
    double area_m2 = 20000;
    double fastest_m_s = fastest_search_m_s;
};

class PrepareView : public QWidget {
    Q_OBJECT
  public:
    PrepareView(ViewContext &context, QWidget *parent = nullptr);
    const Preparation &preparation() const { return asked_; }
    /// The answer for the purpose chosen; nothing while it is computed.
    /// Whether the window, as last painted, has room for all reasons, rules and warnings whole.
    bool wordsFit() const { return words_fit_; }
    const std::optional<Advice> &answer() const { return answers(asked_.read_by)[chosen()]; }
    /// By purpose, for the reader chosen and for the other.
    const std::array<std::optional<Advice>, 4> &answers() const { return answers(asked_.read_by); }
    const std::array<std::optional<Advice>, 4> &answers(ReadBy by) const {
        return answers_[static_cast<std::size_t>(by)];
    }
    /// Two lines of warning, or none: shared bands, empty promise.
    QStringList warnings() const { return warnings_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;

  private:
    bool words_fit_ = false;
    struct Choice {
        QString label;
        std::vector<KeyButton *> keys;
    };
    KeyButton *addKey(const char *name, const QString &text, const QString &tip,
                      const QKeySequence &letter = {});
    Choice addChoice(const QString &label, const QStringList &texts, const char *name,
                     std::function<void(int)> chosen);
    std::size_t chosen() const { return static_cast<std::size_t>(asked_.purpose); }
    void addKeys();
    void ask(); ///< computes anew, soon
    void compute();
    void answered();
    void warn();
    void refresh();
    void keep() const;
    void restore();
    void take();
    /// Where the left column's parts stand; lower windows leave the gear's facts to its editor.
    struct Column {
        bool gear_facts = true;
        int gear_rule, gear_title, purpose_rule, purpose_keys, thing_keys;
        QRect gear_key;
    };
    Column column() const;
    double sliderX(double depth_m) const;
    QRectF depthHandle(bool deep) const;

    void paintAsked(QPainter &p);
    void paintSection(QPainter &p, const QRectF &box);
    void paintThings(QPainter &p, const std::function<double(double)> &depth,
                     const std::function<QPointF(double, double)> &at, double scale) const;
    void paintGroundRuler(QPainter &p, const QRectF &box, double far, double scale) const;
    void paintRows(QPainter &p, const QRectF &box, bool curves);
    /// One of the four answers: what is advised, what the rule of thumb says, and why.
    struct Figure {
        QString label, big, unit, rule, differs;
        double value, low, high, most;
        std::string why;
        QString whyWords() const;
    };
    using Figures = std::array<Figure, 4>;
    Figures figures() const;
    void paintFigures(QPainter &p, const QRectF &box, const Figures &figures);
    void paintFigure(QPainter &p, const Figure &f, const QRectF &box);
    void paintFitted(QPainter &p, QPointF at, const QString &words, int size, bool bold, double room,
                     const char *ink);
    void paintPurposes(QPainter &p, const QRectF &box);
    void paintArea(QPainter &p, const QRectF &box);
    QString length(double m, int decimals = 0) const;
    QString figure(double m, int decimals = 0) const;

    ViewContext &context_;
    Tuner &tuner_;
    Preparation asked_;
    std::array<std::array<std::optional<Advice>, 4>, 2> answers_; ///< by who reads, by purpose
    QTimer soon_;
    /// What is computed beside the window, by who reads and by purpose.
    using RangesByBand = std::array<std::array<std::vector<double>, 4>, 2>;
    struct Answers {
        std::array<std::array<Advice, 4>, 2> by_purpose;
        RangesByBand range_by_band;
    };
    QFutureWatcher<Answers> watcher_;
    RangesByBand ranges_by_band_;
    bool again_ = false;
    QStringList warnings_;
    Choice clarity_, bottom_, purpose_, kind_, read_by_;
    KeyButton *colder_, *warmer_, *layered_, *smaller_, *larger_, *gear_key_, *take_, *area_less_,
        *area_more_;
    GearEditor *editor_;
    enum class Grip { none, shallow, deep } grip_ = Grip::none;
};

QString titleOf(Purpose purpose);
QString titleOf(ReadBy by);

} // namespace heron::app
