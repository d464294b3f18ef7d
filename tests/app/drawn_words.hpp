// What words a widget draws, and whether they are whole: the widget is drawn into a device that takes nothing
// but its words.
#pragma once

#include <QAbstractScrollArea>
#include <QFontMetricsF>
#include <QPaintDevice>
#include <QPaintEngine>
#include <QPainter>
#include <QString>
#include <QWidget>
#include <vector>

namespace heron::test {

struct DrawnWords {
    QString text;
    QRectF at; ///< in the widget
    bool cut_across = false, cut_down = false;
    bool elided() const {
        return text.endsWith(QChar(0x2026)) && text.size() > 1 && !text.at(text.size() - 2).isSpace();
    }
};

class WordDevice : public QPaintDevice {
  public:
    explicit WordDevice(const QWidget &of)
        : size_(of.size()), visible_(of.visibleRegion().boundingRect()), engine_(*this) {}
    QPaintEngine *paintEngine() const override { return &engine_; }
    std::vector<DrawnWords> words;

  protected:
    int metric(PaintDeviceMetric m) const override {
        switch (m) {
        case PdmWidth:
            return size_.width();
        case PdmHeight:
            return size_.height();
        case PdmWidthMM:
            return size_.width() * 254 / 960;
        case PdmHeightMM:
            return size_.height() * 254 / 960;
        case PdmNumColors:
            return 1 << 24;
        case PdmDepth:
            return 32;
        case PdmDevicePixelRatio:
            return 1;
        case PdmDevicePixelRatioScaled:
            return static_cast<int>(devicePixelRatioFScale());
        default:
            return 96;
        }
    }

  private:
    class Engine : public QPaintEngine {
      public:
        explicit Engine(WordDevice &device) : QPaintEngine(AllFeatures), device_(device) {}
        bool begin(QPaintDevice *) override { return true; }
        bool end() override { return true; }
        void updateState(const QPaintEngineState &) override {}
        void drawPixmap(const QRectF &, const QPixmap &, const QRectF &) override {}
        void drawImage(const QRectF &, const QImage &, const QRectF &, Qt::ImageConversionFlags) override {}
        void drawTiledPixmap(const QRectF &, const QPixmap &, const QPointF &) override {}
        void drawPath(const QPainterPath &) override {}
        void drawPolygon(const QPointF *, int, PolygonDrawMode) override {}
        void drawTextItem(const QPointF &at, const QTextItem &item) override {
            const auto text = item.text().trimmed();
            if (text.isEmpty())
                return;
            const auto to_device = painter()->combinedTransform();
            // Of its ink: above and below it there is room.
            const auto r =
                to_device.mapRect(QFontMetricsF(item.font()).tightBoundingRect(item.text()).translated(at));
            QRectF seen = device_.visible_;
            if (painter()->hasClipping())
                seen &= to_device.mapRect(painter()->clipBoundingRect());
            if (!seen.intersects(r))
                return;
            constexpr double a_pixel = 1.5;
            device_.words.push_back({text, r,
                                     r.left() < seen.left() - a_pixel || r.right() > seen.right() + a_pixel,
                                     r.top() < seen.top() - a_pixel || r.bottom() > seen.bottom() + a_pixel});
        }
        Type type() const override { return User; }

      private:
        WordDevice &device_;
    };
    QSize size_;
    QRectF visible_;
    mutable Engine engine_;
};

inline std::vector<DrawnWords> drawn_words(QWidget &w) {
    WordDevice device(w);
    w.render(&device, QPoint(), QRegion(), QWidget::RenderFlags());
    return std::move(device.words);
}

/// Whether it moves under a frame, so that it may be cut where the frame ends.
inline bool scrolls(const QWidget &w) {
    for (const auto *p = &w; p != nullptr; p = p->parentWidget())
        if (qobject_cast<const QAbstractScrollArea *>(p) != nullptr)
            return true;
    return false;
}

} // namespace heron::test
