// The column beside the picture: depth and speed big, what is pointed at or measured, and the sounder's
// controls.
#pragma once

#include "feed/survey.hpp"
#include "reading/measure.hpp"

#include <QTimer>
#include <QWidget>

namespace heron::app {

class KeyButton;
class PictureView;

class ScanPanel : public QWidget {
    Q_OBJECT
  public:
    ScanPanel(Survey &survey, PictureView &picture, QWidget *parent = nullptr);

    /// One line of the read-out: label, figure with its doubt, in the order shown.
    struct Line {
        QString label, figure, rest;
        bool alarming = false;
    };
    /// What the read-out says now; the tests and the eye read the same.
    const std::vector<Line> &readout() const { return lines_; }
    QString readoutTitle() const { return title_; }
    QString why() const { return why_; }
    const std::optional<Measurement> &measurement() const { return measurement_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Row {
        KeyButton *less, *more;
    };
    Row addRow(const QString &less, const QString &more, const QKeySequence &less_key,
               const QKeySequence &more_key, const QString &less_tip, const QString &more_tip);
    void layOut();
    void refresh();
    void readCursor();
    void readMeasure();
    void stepRange(int step);
    void stepBand(int step);
    void stepGain(int step);
    void stepSpeed(int step);
    QString length(double metres, int decimals = 1) const;
    QString doubt(double sd_metres, int decimals = 1) const;
    QString lengthWithUnit(double metres, int decimals = 1) const;
    QString speedText() const;

    Survey &survey_;
    PictureView &picture_;
    Row range_, band_, gain_, map_;
    KeyButton *floats_, *wide_, *pinging_;
    QTimer timer_;
    QString title_, why_;
    std::vector<Line> lines_;
    std::optional<Measurement> measurement_;
};

} // namespace heron::app
