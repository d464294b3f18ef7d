// The picture: newest line at the top, left is left; to scale along the track where the boat's speed is
// known.
#pragma once

#include "parts/view_context.hpp"
#include "picture/track_lines.hpp"
#include "reading/measure.hpp"

#include <QImage>
#include <QWidget>
#include <map>
#include <optional>

namespace heron::app {

/// Which sides are shown.
enum class ShownSides { both, left, right };

class PictureView : public QWidget {
    Q_OBJECT
  public:
    explicit PictureView(ViewContext &context, QWidget *parent = nullptr);

    /// The newest row at the top; rows go down from there.
    std::size_t topRow() const;
    bool frozen() const { return frozen_; }
    void setFrozen(bool frozen);
    /// Shows the rows from `row` down; freezes.
    void goTo(std::size_t row);
    /// Moves by so many lines towards now (or away from it); freezes.
    void scrollLines(std::int64_t lines);
    std::size_t rowsWaiting() const; ///< newer than the top, while frozen
    double range() const { return range_m_; }
    double pixelsPerMetre() const { return halfWidth() / range_m_; }

    Across across() const { return across_; }
    void setAcross(Across across); ///< along the sound, or over ground without the water strip
    Along along() const { return along_; }
    void setAlong(Along along);
    ShownSides sides() const { return sides_; }
    void setSides(ShownSides sides);
    bool loupe() const { return loupe_; }
    void setLoupe(bool on);
    /// Limits beyond which a stretch is struck out.
    void setSteadyLimits(const SteadyLimits &limits);
    const SteadyLimits &steadyLimits() const { return limits_; }

    /// The row that stands in a line of the window, from the top; nothing where there is none.
    std::optional<std::size_t> rowAtY(int y) const;
    double yOf(std::size_t row) const;
    double keelX() const;
    bool shows(Side side) const;
    std::optional<Cursor> pointAt(QPointF position) const;
    QPointF positionOf(std::size_t row, Side side, double slant_m) const;
    bool rowVisible(std::size_t row) const;

    /// What is pointed at: the pick that was pressed, or what lies under the pointer.
    std::optional<Cursor> pointed() const;
    bool picked() const { return pick_.has_value(); }
    void clearPick();

    /// The contact that was pressed in this picture; 0: none.
    int pressedContact() const { return pressed_contact_; }
    void releaseContact();
    /// Where the ring of a contact stands and how large it is; nothing where it is not in the picture.
    struct Ring {
        QPointF at, glyph; ///< centres of the ring and of the glyph beside it
        double radius = 0;
    };
    std::optional<Ring> ringOf(const Contact &contact) const;
    /// The contact whose ring or glyph is there; 0: none.
    int contactAt(QPointF position) const;

    bool measuring() const { return measuring_; }
    void setMeasuring(bool measuring);
    /// What is measured: a height from its shadow, a distance or an area by its corners; or the bottom line
    /// is drawn where the program has it wrong.
    enum class Hand { shadow, outline, bottom_line };
    Hand hand() const { return hand_; }
    void setHand(Hand hand);
    const std::vector<Cursor> &corners() const { return corners_; }
    void takeBackCorner();
    const std::optional<MeasureHandles> &handles() const { return handles_; }
    void setFloating(bool floating);
    void setWide(bool wide); ///< a third handle, on the near edge of the echo
    /// Moves the selected handle by samples (keys).
    void nudge(int samples);
    /// Levels of a beam as the filters leave them.
    void levelsOf(std::size_t row, const Beam &beam, std::vector<float> &out,
                  HiddenByFilters *hidden = nullptr) const;
    /// What the filters hid in the lines now shown.
    HiddenByFilters hiddenNow() const;

  signals:
    void pointedChanged();
    void contactPressed();      ///< or released
    void contactOpened(int id); ///< pressed twice
    void handlesChanged();
    void frozenChanged();
    void topChanged();
    void rangeChanged();
    void shapeChanged(); ///< sides, strip, scale
    void painted();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;
    void mouseMoveEvent(QMouseEvent *event) override;
    void mouseReleaseEvent(QMouseEvent *event) override;
    void leaveEvent(QEvent *event) override;
    void wheelEvent(QWheelEvent *event) override;
    void mouseDoubleClickEvent(QMouseEvent *event) override;

  private:
    enum class Grip { none, near_edge, top, end, fresh };
    static constexpr std::int64_t no_line = -1;
    std::vector<Grip> grips() const;
    double slantOf(Grip grip) const;
    void advance();
    void reshape();
    void repaintAll();
    void paintLine(std::int64_t line);
    void paintRow(std::size_t row, QRgb *out);
    std::int64_t newestLine() const;
    int ringIndex(std::int64_t line) const {
        const auto h = static_cast<std::int64_t>(image_.height());
        return static_cast<int>(h - 1 - line % h);
    }
    double halfWidth() const { return sides_ == ShownSides::both ? width() / 2.0 : width(); }
    double acrossOf(std::size_t row, double slant_m) const; ///< metres from the keel line in the picture
    double slantAt(std::size_t row, double across_m) const;
    QRectF gripRect(Grip grip) const;
    void paintEmpty(QPainter &p);
    struct StruckRun {
        int from, to; ///< lines of the window
        Strike strike;
        double turned_deg;
    };
    std::vector<StruckRun> struckRuns() const;
    static QString strikeWords(const StruckRun &run);
    void paintStrikes(QPainter &p);
    void paintDepthBand(QPainter &p);
    void paintLabels(QPainter &p);
    void paintScaleNote(QPainter &p);
    void paintMarks(QPainter &p);
    void paintContacts(QPainter &p);
    bool isMarked(const Contact &contact) const;
    void paintPick(QPainter &p);
    void paintHandles(QPainter &p);
    void paintCorners(QPainter &p);
    void paintBottomLine(QPainter &p);
    void drawBottom(QPointF position);
    void paintLoupe(QPainter &p);
    void dragTo(QPointF position);

    ViewContext &context_;
    QImage image_;                      // a ring of lines; line n stands at ringIndex(n)
    std::vector<std::int64_t> painted_; // which line stands in each row of the image
    std::vector<std::uint8_t> levels_;
    std::vector<float> row_levels_;
    std::vector<float> sum_;
    double range_m_ = 25;
    Across across_ = Across::slant;
    Along along_ = Along::ground;
    ShownSides sides_ = ShownSides::both;
    TrackLines lines_{Along::ground, 0.07};
    SteadyLimits limits_;
    std::int64_t top_line_ = 0;
    bool frozen_ = false, loupe_ = false;
    std::optional<QPointF> hover_;
    std::optional<Cursor> pick_;
    int pressed_contact_ = 0;
    bool measuring_ = false;
    Hand hand_ = Hand::shadow;
    std::vector<Cursor> corners_;
    std::map<std::size_t, double> drawn_; // row → altitude, while the line is drawn
    std::optional<std::pair<std::size_t, double>> drawn_last_;
    bool drawing_ = false;
    std::optional<MeasureHandles> handles_;
    Grip grip_ = Grip::none, last_grip_ = Grip::end;
    double grip_offset_ = 0;
};

} // namespace heron::app
