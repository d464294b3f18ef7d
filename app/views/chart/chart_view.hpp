// The place Chart: the sheet, what lies under the pointer, the layers, and the row of keys.
#pragma once

#include "parts/view_context.hpp"

#include <QLineEdit>
#include <QWidget>
#include <vector>

namespace heron::app {

class ChartSheetView;
class KeyButton;
class PaperLabel;

class ChartView : public QWidget {
    Q_OBJECT
  public:
    ChartView(ViewContext &context, QWidget *parent = nullptr);
    static constexpr int panel_width = 284, roomy_height = 720;
    ChartSheetView &sheet() { return *sheet_; }
    /// What is said of the place under the pointer, or of the one pressed: line by line.
    QStringList readOut() const;
    /// The lanes as a GPX route.
    bool canWriteRoute() const;
    void writeRoute(const QString &path);
    /// What is wished, in words; empty ends it.
    void setWish(const QString &words);
    /// Marks the place that was pressed, else the boat.
    void mark(Family family);

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;
    void mousePressEvent(QMouseEvent *event) override;

  private:
    KeyButton *add(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                   const QString &tip);
    void addLayers();
    void addChoices();
    QString mosaicMeans() const;
    QString trackMeans() const;
    void addKeys();
    void refresh();
    void askToWrite();
    void askToAdd();
    void askForBackdrop();
    void know();
    void addLanes();
    void addFiles();
    QString wishAnswer();
    QStringList why() const;
    void showInScan();
    int layersTop() const;
    QRect rowRect(std::size_t row) const;
    void paintReadOut(QPainter &p);
    void paintWhy(QPainter &p, double y) const;
    void paintRow(QPainter &p, std::size_t row);
    void paintLooks(QPainter &p, double top);
    /// By how much more positions come late than is taken, where it shifts things by more than a look does.
    std::optional<ClockCheck::Found> lateFound() const;
    void refreshLate();
    void takeLate();
    void paintPlan(QPainter &p, double top);
    QString fuelFor(double minutes) const;
    std::optional<Mark> drawnMark() const;

    ViewContext &context_;
    ChartSheetView *sheet_;
    /// What a row of the list says: the layer's name, and what its signs mean.
    struct Row {
        QString title, means;
    };
    std::vector<Row> rows_;
    std::vector<KeyButton *> layer_keys_, keys_;
    KeyButton *measure_, *lanes_, *turn_, *zigzag_, *pass_, *scan_, *write_, *add_, *backdrop_, *known_, *up_,
        *find_, *band_less_, *band_more_, *level_less_, *level_more_, *late_, *blend_, *band_of_, *day_;
    QLineEdit *wish_;
    PaperLabel *answer_;
};

} // namespace heron::app
