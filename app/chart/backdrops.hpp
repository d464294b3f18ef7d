// What others have drawn of the lake, under the chart: opened and read in a thread of its own.
#pragma once

#include "chart/chart_maker.hpp"
#include "exchange/backdrop.hpp"

#include <QImage>
#include <QObject>
#include <QThread>

namespace heron::app {

/// What of a backdrop the window's thread draws.
struct BackdropDrawn {
    QString path, name;
    std::vector<Backdrop::Line> lines;
    std::vector<Backdrop::Point> points;
    bool has_picture = false, has_depths = false;
    std::optional<Backdrop::Extent> extent;
};

/// A part of the plane: its north-west corner and how wide a cell is.
struct BackdropPart {
    double west_m = 0, north_m = 0, cell_m = 1;
    int columns = 1, rows = 1;
};

class BackdropWorker : public QObject {
    Q_OBJECT
  public:
    void open(const QString &path, const UtmZone &zone);
    void close();
    void read(const BackdropPart &part, int number);
    void depth(const EastNorth &at);

  signals:
    void opened(std::shared_ptr<heron::app::BackdropDrawn> drawn, QStringList warnings);
    void refused(std::shared_ptr<heron::Fault> fault);
    void pictureRead(QImage image, heron::app::BackdropPart part, int number);
    void depthRead(heron::EastNorth at, double metres); ///< not-a-number: none

  private:
    std::optional<Backdrop> backdrop_;
};

/// One backdrop at a time; the last one is remembered and laid again when a chart of the same plane begins.
class Backdrops : public QObject {
    Q_OBJECT
  public:
    Backdrops(Session &session, ChartMaker &chart, QObject *parent = nullptr);
    ~Backdrops() override;

    void open(const QString &path);
    void close();
    const std::shared_ptr<BackdropDrawn> &drawn() const { return drawn_; }
    /// Asks for a part of the picture; answers of earlier questions are dropped.
    void ask(const BackdropPart &part);
    const QImage &picture() const { return picture_; }
    const BackdropPart &part() const { return part_; }
    /// Asks for the backdrop's own depth somewhere; `depthAt` answers when it has come.
    void askDepth(const EastNorth &at);
    std::optional<double> depthAt(const EastNorth &at) const;

  signals:
    void changed();

  private:
    void lay();
    Session &session_;
    ChartMaker &chart_;
    QThread thread_;
    BackdropWorker *worker_;
    QString path_;
    std::optional<UtmZone> zone_;
    std::shared_ptr<BackdropDrawn> drawn_;
    QImage picture_;
    BackdropPart part_;
    int asked_ = 0;
    bool waits_ = false;
    std::optional<BackdropPart> next_;
    std::optional<std::pair<EastNorth, double>> depth_;
    bool depth_asked_ = false;
};

} // namespace heron::app
