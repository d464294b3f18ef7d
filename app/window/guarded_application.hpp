// The wall around every thread that runs Qt's events: what a slot throws is told, and the program goes on.
#pragma once

#include "fault/barrier.hpp"

#include <QApplication>
#include <clocale>
#include <functional>

namespace heron::app {

/// Qt delivers every event of every thread through `notify`, so that one wall serves window, ingest and
/// reading alike.
class GuardedApplication : public QApplication {
  public:
    /// Numbers in files have a decimal point wherever the desktop is at home; libraries print and read them
    /// by the C library's locale, which Qt sets to the desktop's. What is shown follows QLocale.
    GuardedApplication(int &argc, char **argv) : QApplication(argc, argv) { std::setlocale(LC_NUMERIC, "C"); }
    /// Told from the thread in which it was thrown.
    void setOnFault(std::function<void(const Fault &)> on_fault) { on_fault_ = std::move(on_fault); }

    bool notify(QObject *receiver, QEvent *event) override {
        try {
            return QApplication::notify(receiver, event);
        } catch (...) {
            if (on_fault_)
                on_fault_(fault_of_exception(tr("something").toStdString()));
            return true;
        }
    }

  private:
    std::function<void(const Fault &)> on_fault_;
};

} // namespace heron::app
