// The marks of this screen and those of the others, over a broker: a mark made on one stands on the other
// within a second.
#pragma once

#include "marks/mark_library.hpp"
#include "sharing/shared_marks.hpp"

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>

namespace heron::app {

class MarkShare : public QObject {
    Q_OBJECT
  public:
    struct Settings {
        BrokerAddress broker;
        QString screen;  ///< "console", "bow": one of its kind at the broker
        QString service; ///< whose library it is: all boats of one service share it
        SharedMarks::Role role = SharedMarks::Role::crew;
    };
    MarkShare(Session &session, MarkLibrary &marks, QObject *parent = nullptr);
    ~MarkShare() override;

    /// Takes the line up, now and at the next starts; refuses in words what cannot be.
    void begin(const Settings &settings);
    /// As it was at the last start; nothing where it was off.
    void beginAsBefore();
    void end(); ///< for good
    bool on() const { return link_ != nullptr; }
    bool connected() const { return link_ && link_->state().connected; }
    /// "with others as bow", "no line: connection refused; 3 wait", "off".
    QString state() const;
    const Settings &settings() const { return settings_; }
    /// Edits of this screen that another's overruled, the newest last.
    const std::vector<LostEdit> &lost() const { return lost_; }

  signals:
    void stateChanged();

  private:
    void turn();
    void say(const std::vector<BrokerLink::Word> &words);
    void shareAll();
    void keep();
    QString statePath() const;

    Session &session_;
    MarkLibrary &marks_;
    Settings settings_;
    std::unique_ptr<SharedMarks> shared_;
    std::unique_ptr<BrokerLink> link_;
    QTimer turn_, keep_;
    std::vector<LostEdit> lost_;
    bool was_connected_ = false;
    std::size_t refused_ = 0;
};

} // namespace heron::app
