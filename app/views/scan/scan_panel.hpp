// The column beside the picture: depth and speed big, the tuning or what is measured, and the controls.
#pragma once

#include "views/scan/readout.hpp"

#include <QTimer>
#include <QWidget>

namespace heron::app {

class ConditionsBox;
class ContactBox;
class ControlPages;
class PictureView;
class TuningBox;
class Tuner;

class ScanPanel : public QWidget {
    Q_OBJECT
  public:
    ScanPanel(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);
    Readout &reading() { return *readout_; }
    TuningBox &tuning() { return *tuning_; }
    ControlPages &controls() { return *controls_; }
    ConditionsBox &conditions() { return *conditions_; }
    ContactBox &contact() { return *contact_; }

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    int headHeight() const;
    void choose(); ///< the tuning, or what is measured or picked

    ViewContext &context_;
    PictureView &picture_;
    Readout *readout_;
    TuningBox *tuning_;
    ControlPages *controls_;
    ConditionsBox *conditions_;
    ContactBox *contact_;
    QTimer timer_;
};

} // namespace heron::app
