// A picture or a film of a unit's screen, made measurable: its panel, its middle, its range; then it is read
// as a recording is.
#pragma once

#include "ingest/source_config.hpp"
#include "parts/view_context.hpp"
#include "screen/guess.hpp"
#include "screen/ramp.hpp"

#include <QImage>
#include <QPointer>
#include <QProcess>
#include <QWidget>
#include <array>
#include <vector>

namespace heron::app {

class ItemList;
class KeptScreens;
class KeyButton;

class ScreenView : public QWidget {
    Q_OBJECT
  public:
    ScreenView(ViewContext &context, QWidget *parent = nullptr);
    /// Whether a file's name is that of a picture or a film.
    static bool takes(const QString &path);
    /// Shows a picture, or the first picture of a film; a fault is told.
    void open(const QString &path);
    /// Shows what a video device shows just now: a stick on the unit's video output, a camera before it.
    void openDevice(const QString &device);
    bool isDevice() const { return device_; }
    /// The picture that another program has copied; says so where there is none.
    void paste();
    const ScreenCalibration &calibration() const { return calibration_; }
    bool isFilm() const { return film_; }
    bool reading() const { return process_ != nullptr; }
    /// A log of NMEA sentences of a receiver beside a film; empty: none.
    void setTrack(const QString &path);
    const QString &track() const { return track_; }
    /// Screens that were read, in place of the picture.
    bool showsKept() const;
    /// Where a place of the picture stands in the view, and back.
    QPointF toView(Pixel p) const;
    Pixel toPicture(const QPointF &at) const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void dragEnterEvent(QDragEnterEvent *event) override;
    void dropEvent(QDropEvent *event) override;

  private:
    static constexpr int column_wide = 320;
    static constexpr double sure_symmetry = 0.6;
    enum class Grip { none, upper_left, upper_right, lower_right, lower_left, middle };
    KeyButton *addKey(const char *name, const QString &text, const QString &tip,
                      const QKeySequence &letter = {});
    void suggest();
    /// Of a film, beside the window: the edge at which new rows come.
    void suggestNewest();
    void changed();
    void lookAtColours();
    void nextFigure();
    void takeFigure(const QPointF &from, const QPointF &to);
    void paintFigures(QPainter &p) const;
    static QString wordOf(FigureBox::Of of);
    void askDevice();
    void setPicture(ScreenPicture picture, const QString &path);
    void keep() const;
    bool recall();
    void read();
    void readPicture(const QString &recording);
    void readFilm(const QString &recording);
    static QString folderOfScreens();
    void findCornersAgain();
    bool startFilm(const QStringList &words);
    void soundDevice();
    void soundsOn();
    void deviceEnded(int code);
    void shown(const QString &recording);
    void keepSighting(const QString &recording) const;
    void makeKeptList();
    void lookAtKept(bool on);
    void openKept();
    QRectF pictureBox() const;
    std::array<Pixel, 2> middleLine() const;
    /// Of a circle: where on its rim the bow points.
    Pixel bowAtRim() const;
    bool circle() const { return calibration_.circle_bow_deg.has_value(); }
    void paintPicture(QPainter &p) const;
    void paintColumn(QPainter &p) const;
    QString length(double m, int decimals) const;

    ViewContext &context_;
    QString path_;
    bool film_ = false, device_ = false;
    ScreenPicture picture_;
    QImage image_;
    ScreenCalibration calibration_;
    ColourRamp ramp_;
    double symmetry_ = 0;
    bool remembered_ = false, middle_by_hand_ = false, range_said_ = false, newest_by_hand_ = false;
    std::shared_ptr<JobControl> looking_; ///< at how a film scrolls
    Grip grip_ = Grip::none;
    QString told_, track_;
    std::optional<FigureBox::Of> figure_;          ///< whose box is drawn next
    std::optional<QPointF> drawn_from_, drawn_to_; ///< while one is drawn
    QPointer<QProcess> process_;
    QByteArray heard_;                      ///< from it, of a device
    bool asked_to_end_ = false;             ///< of a device: by the guide
    std::vector<SourceConfig> listened_to_; ///< before the device was
    std::array<KeyButton *, 4> newest_{};
    KeyButton *open_, *paste_, *suggest_, *live_, *read_, *swap_, *hand_, *circle_, *range_less_,
        *range_more_, *along_less_, *along_more_, *depth_less_, *depth_more_, *figures_, *track_key_,
        *kept_key_;
    KeptScreens *kept_;
    ItemList *kept_list_;
};

} // namespace heron::app
