// The sounder's description, field by field; what nobody can look up is estimated from what it sounded.
#pragma once

#include "parts/view_context.hpp"

#include <QLineEdit>
#include <QWidget>

namespace heron::app {

class KeyButton;

class GearEditor : public QWidget {
    Q_OBJECT
  public:
    GearEditor(ViewContext &context, QWidget *parent = nullptr);
    void show(const Gear &gear, const WaterState &water);
    QString said() const { return said_; }

  signals:
    void edited(const heron::Gear &gear);
    void closed();

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;

  private:
    struct Field {
        QString label, unit;
        QLineEdit *edit;
        std::function<double(const Gear &)> get;
        std::function<void(Gear &, double)> set;
        double low, high;
    };
    void add(const QString &label, const QString &unit, double low, double high,
             std::function<double(const Gear &)> get, std::function<void(Gear &, double)> set);
    void fill();
    void take();
    void estimate();

    ViewContext &context_;
    Tuner &tuner_;
    Gear gear_;
    WaterState water_;
    std::vector<Field> general_;
    std::vector<std::array<QLineEdit *, 5>> bands_;
    KeyButton *estimate_, *usual_, *done_;
    QString said_;
    bool filling_ = false;
};

} // namespace heron::app
