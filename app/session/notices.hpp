// What the program has to say to the guide. Whoever has a fault or a word tells it here; windows show it.
#pragma once

#include "fault/fault.hpp"

#include <QObject>
#include <QString>
#include <vector>

namespace heron::app {

/// Faults stand until they pass or are put away; words go by themselves. What repeats is told once: a fault
/// that already stands, or that was put away and has not passed since, is not told again.
class Notices : public QObject {
    Q_OBJECT
  public:
    explicit Notices(QObject *parent = nullptr);

    struct Standing {
        QString topic;
        Fault fault;
        bool put_away = false;
    };
    /// `topic` names what it is about ("sounder", "marks", …). From any thread.
    void raise(const QString &topic, const Fault &fault);
    /// It is over: the fault of this topic stands no more.
    void pass(const QString &topic);
    /// The guide has read it.
    void putAway(const QString &topic);
    /// A word that needs no action.
    void say(const QString &topic, const QString &text);

    /// What is lost if it is overlooked comes first; the newest first among equals.
    const std::vector<Standing> &standing() const { return standing_; }
    /// The fault to be shown; nothing when none stands that was not put away.
    const Standing *first() const;
    std::size_t waiting() const; ///< faults behind the first

  signals:
    void standingChanged();
    void said(const QString &topic, const QString &text);

  private:
    std::vector<Standing> standing_;
};

} // namespace heron::app
