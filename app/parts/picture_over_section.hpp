// The fold: the picture of one contact above, the vertical plane of its ping below, at one scale.
#pragma once

#include "parts/view_context.hpp"
#include "reading/contact.hpp"

#include <QImage>
#include <QWidget>

namespace heron::app {

class PictureOverSection : public QWidget {
    Q_OBJECT
  public:
    PictureOverSection(ViewContext &context, QWidget *parent = nullptr);
    /// What was read of a stream; nothing: empty.
    void show(const Contact *contact, ShownScan &stream);
    /// Where echo top and shadow end stand now, by the program or by the hand that moved them.
    const std::optional<MeasureHandles> &handles() const { return handles_; }
    const std::optional<Measurement> &measured() const { return measured_; }
    bool moved() const { return moved_; }
    /// Levels of a stream become colours as in its own view.
    const WindowState &display() const;
    /// Moves the handle that was moved last by samples (keys).
    void nudge(int samples);
    QPoint handleAt(bool end) const; ///< the middle of its grip
    /// Where a sample of the contact's side stands in the picture.
    QPoint pointOf(std::size_t row, double slant_m) const {
        return QPointF(xOf(slant_m), yOf(row)).toPoint();
    }

  signals:
    void handlesMoved();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;

  private:
    enum class Grip { none, top, end };
    void scaleTo();
    double rayStepDeg() const;
    /// The row that a line of the picture shows: to scale along the track, ray beside ray on the circle.
    std::optional<std::size_t> rowAt(int y, std::size_t near) const;
    void paintPicture();
    void measureNow();
    /// Heights in the section, pixels: the surface, the transducer, the bottom under it.
    struct Frame {
        double surface = 0, keel = 0, floor = 0;
    };
    Frame frame() const;
    double floorAt(const Frame &frame, double ground_m) const;
    static void write(QPainter &p, QPointF at, const QString &text, int px, bool bold, const char *ink);
    void paintRings(QPainter &p);
    void paintHandles(QPainter &p);
    void paintRuler(QPainter &p);
    void paintSection(QPainter &p);
    void paintBed(QPainter &p, const Frame &frame);
    void paintRay(QPainter &p, const Frame &frame);
    void paintUnmeasured(QPainter &p, const Frame &frame);
    double xOf(double slant_m) const { return keel_x + slant_m * per_metre_; }
    double yOf(std::size_t row) const; ///< in the picture
    QRectF gripRect(Grip grip) const;
    QString length(double m) const;

    static constexpr double keel_x = 40, fold_gap = 30;
    ViewContext &context_;
    ShownScan *stream_;
    WindowState circle_display_;
    std::optional<Contact> contact_;
    double between_rays_m_ = 0; ///< at the contact, of the circle; 0: rows lie along the track
    std::optional<MeasureHandles> handles_;
    std::optional<Measurement> measured_;
    bool moved_ = false;
    Grip grip_ = Grip::none, last_ = Grip::end;
    double grip_offset_ = 0;
    double per_metre_ = 30, range_m_ = 20;
    QImage image_;
};

} // namespace heron::app
