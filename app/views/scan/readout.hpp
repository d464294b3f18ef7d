// What is pointed at or measured, in figures with their doubt.
#pragma once

#include "parts/view_context.hpp"
#include "reading/measure.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;
class PictureView;

class Readout : public QWidget {
    Q_OBJECT
  public:
    Readout(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);

    /// One line: label, figure with its doubt, in the order shown.
    struct Line {
        QString label, figure, rest;
        bool alarming = false;
    };
    const std::vector<Line> &lines() const { return lines_; }
    QString title() const { return title_; }
    QString why() const { return why_; }
    const std::optional<Measurement> &measurement() const { return measurement_; }
    /// All of it on one line, for the foot of the picture.
    QString oneLine() const;
    void refresh();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void readCursor();
    void readMeasure();
    void readOutline();
    void readBottomLine();
    QString length(double metres, int decimals = 1) const;
    QString doubt(double sd_metres, int decimals = 1) const;
    QString lengthWithUnit(double metres, int decimals = 1) const;

    ViewContext &context_;
    PictureView &picture_;
    KeyButton *floats_, *wide_, *outline_, *bottom_line_;
    QString title_, why_;
    std::vector<Line> lines_;
    std::optional<Measurement> measurement_;
};

} // namespace heron::app
