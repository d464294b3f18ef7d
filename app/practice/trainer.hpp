// Somebody who learns to read: made-up lakes are sounded by the stand-in in a process of its own, questions
// asked, answers kept.
#pragma once

#include "picture/chip.hpp"
#include "picture/scan.hpp"
#include "practice/guest_set.hpp"
#include "reading/contact.hpp"
#include "session/session.hpp"

#include <QObject>
#include <QProcess>
#include <QTemporaryDir>
#include <memory>

namespace heron::app {

class Trainer : public QObject {
    Q_OBJECT
  public:
    explicit Trainer(Session &session, QObject *parent = nullptr);
    ~Trainer() override;
    /// The stand-in's program; beside this one unless told otherwise.
    void setProgram(const QString &path) { program_ = path; }

    QStringList people() const;
    QString person() const { return person_; }
    void setPerson(const QString &name);
    const PracticeProgress &progress() const { return progress_; }
    int difficulty() const { return difficulty_; }
    void setDifficulty(int difficulty); ///< 0 … 2

    /// What is asked for in place of made-up waters: marks that one can learn from (`teaches`); empty: those
    /// waters again.
    void setOwn(std::vector<Mark> marks);
    bool own() const { return !own_.empty(); }
    /// Writes what those marks ask as a set for guests: no place, no name, no date.
    void writeSet(const QString &path, const QString &title);
    /// Asks what such a file holds, until something else is chosen.
    void openSet(const QString &path);
    const std::optional<GuestSet> &set() const { return set_; }
    /// Asks: of the water at hand while things are left in it, else of a new one.
    void next();
    bool making() const { return making_; }
    /// How far the stand-in has sounded the water that is made, 0 to 1; 1 while it is read.
    double made() const { return made_; }
    /// Makes no water after all.
    void stop();
    bool asked() const { return question_.has_value(); }
    const std::optional<PracticeQuestion> &question() const { return question_; }
    std::optional<std::size_t> answered() const { return answered_; }
    void answer(std::size_t choice);

    const PracticeLake &lake() const { return lake_; }
    const PracticeThing &thing() const { return lake_.things[question_->thing]; }
    /// The picture about the thing that is asked for: newest row at the top, so many metres of sound a pixel.
    Chip picture(int width, int height, double metres_a_pixel) const;
    /// The way along the sound that lies in the middle of that picture.
    double middle_slant_m() const;
    /// What the program itself read of the thing that is asked for; nothing where it overlooked it.
    const Contact *reading() const;
    Side side() const { return lake_.aside_m(thing()) < 0 ? Side::port : Side::starboard; }

  signals:
    void changed();

  private:
    void makeLake();
    void recorded();
    void chooseThings();
    void ask();
    void askOwn();
    /// What the program read where a thing of the made-up water lies; null: nothing.
    const Contact *contactAt(const PracticeThing &thing) const;
    Chip bothLooks(const DisplayWindow &window, int width, int height) const;
    std::size_t rowOf(const PracticeThing &thing, double heading_deg = 0) const;

    Session &session_;
    QString program_, person_;
    PracticeProgress progress_;
    int difficulty_ = 0;
    PracticeLake lake_;
    struct Sounded {
        std::shared_ptr<Scan> scan;
        std::vector<Contact> contacts;
    };
    std::shared_ptr<Scan> scan_;
    std::vector<Contact> contacts_; ///< as the program reads that scan
    std::vector<Mark> own_;
    std::vector<std::size_t> own_left_;
    std::optional<GuestSet> set_;
    std::vector<std::size_t> left_; ///< things not asked for yet
    std::optional<PracticeQuestion> question_;
    std::optional<std::size_t> answered_;
    std::unique_ptr<QTemporaryDir> folder_;
    QProcess process_;
    std::uint32_t seed_ = 0;
    bool making_ = false, slopes_ = false;
    double made_ = 0;
    int round_ = 0; ///< a water that was stopped is not asked about when it is read
};

} // namespace heron::app
