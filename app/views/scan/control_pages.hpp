// The controls under the tuning box: what the sounder does, and how the picture is shown. Each says what is
// plain and what is advised where it differs.
#pragma once

#include "parts/view_context.hpp"

#include <QWidget>

namespace heron::app {

class KeyButton;
class PictureView;

class ControlPages : public QWidget {
    Q_OBJECT
  public:
    ControlPages(ViewContext &context, PictureView &picture, QWidget *parent = nullptr);
    enum class Page { sounder, picture };
    Page page() const { return page_; }
    void setPage(Page page);
    static constexpr int rows = 4, tabs = 46;
    /// How high it is; `low` windows have their rows closer.
    static int heightOf(bool low) { return tabs + 8 + rows * (low ? 53 : 59) + 4; }
    int rowHeight() const { return (height() - tabs - 12) / rows; }
    /// What stands under a control: plain and advised values that differ; for tests and the eye alike.
    QString differs(int row) const;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    void addKeys();
    void tellPlaying();
    void tellSounder();
    void tellPicture();
    QString length(double metres) const;
    QString lengthUnit() const;
    KeyButton *add(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                   const QString &tip);
    double roomBeside(int top, int row) const;
    void refresh();
    void stepRange(int step);
    void stepBand(int step);
    void stepGain(int step);
    void stepTvg(int step);
    void stepSpeed(int step);
    void stepNear(int step);
    bool live() const;

    ViewContext &context_;
    Tuner &tuner_;
    PictureView &picture_;
    Page page_ = Page::sounder;
    KeyButton *sounder_tab_, *picture_tab_;
    KeyButton *range_less_, *range_more_, *follow_, *band_less_, *band_more_, *gain_less_, *gain_more_,
        *tune_, *tvg_less_, *tvg_more_, *pinging_;
    KeyButton *map_less_, *map_more_, *even_, *contrast_, *near_less_, *near_more_, *streaks_, *along_;
    struct Words {
        QString label, figure, unit, differs;
    };
    std::vector<Words> words_;
    QString hidden_;
};

} // namespace heron::app
