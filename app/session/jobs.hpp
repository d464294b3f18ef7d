// Long work beside the window: opening, thinning, listing, importing. A small pool of threads of its own.
#pragma once

#include "fault/barrier.hpp"

#include <QObject>
#include <QPointer>
#include <QString>
#include <QThreadPool>
#include <atomic>
#include <functional>
#include <memory>

namespace heron::app {

/// How a job and those who wait for it speak: it asks whether it is still wanted, and tells how far it is.
class JobControl {
  public:
    bool cancelled() const { return cancelled_; }
    void cancel() { cancelled_ = true; }
    double done() const { return done_; } ///< 0 to 1
    void tell(double done) { done_ = done; }

  private:
    std::atomic<bool> cancelled_ = false;
    std::atomic<double> done_ = 0;
};

class Jobs : public QObject {
    Q_OBJECT
  public:
    /// `at_a_time`: how many run side by side, 1 or more.
    explicit Jobs(int at_a_time, QObject *parent = nullptr);
    ~Jobs() override; ///< cancels what runs and waits for it

    /// Runs `work` in the pool, then `finished` in this object's thread, unless `context` is gone by then.
    /// What `work` throws arrives as a fault; `doing` says in words what it did, as in "opening the trip".
    template <class T>
    std::shared_ptr<JobControl> run(const QString &doing, QObject *context,
                                    std::function<Result<T>(JobControl &)> work,
                                    std::function<void(Result<T>)> finished) {
        auto control = std::make_shared<JobControl>();
        controls_.push_back(control);
        ++running_;
        emit changed();
        pool_.start([this, control, doing = doing.toStdString(), context = QPointer<QObject>(context),
                     work = std::move(work), finished = std::move(finished)] {
            auto result = std::make_shared<Result<T>>(guarded_result(doing, [&] { return work(*control); }));
            QMetaObject::invokeMethod(
                this,
                [this, control, context, finished, result] {
                    forget(control);
                    if (context)
                        finished(std::move(*result));
                },
                Qt::QueuedConnection);
        });
        return control;
    }
    int running() const { return running_; }

  signals:
    void changed();

  private:
    void forget(const std::shared_ptr<JobControl> &control);
    QThreadPool pool_;
    std::vector<std::shared_ptr<JobControl>> controls_;
    int running_ = 0;
};

} // namespace heron::app
