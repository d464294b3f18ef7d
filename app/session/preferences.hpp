// What the guide likes, kept from start to start; the same in all windows.
#pragma once

#include "units/units.hpp"

#include <QLocale>
#include <QObject>
#include <QSet>
#include <QString>

namespace heron::app {

class Preferences : public QObject {
    Q_OBJECT
  public:
    explicit Preferences(QObject *parent = nullptr);

    /// As the guide chose; before that as the desktop measures.
    UnitSystem units() const { return units_; }
    /// Metres where a desktop is at home in a country of metres; feet else, and where it tells no country.
    static UnitSystem unitsAtHomeIn(const QLocale &desktop);
    void setUnits(UnitSystem units);
    void nextUnits();

    /// Whether the program speaks, and of which kinds of contacts ("stump", "fish", …).
    bool speaks() const { return speaks_; }
    void setSpeaks(bool on);
    const QSet<QString> &spokenKinds() const { return spoken_kinds_; }
    void setKindSpoken(const QString &kind, bool on);

    /// Guests look on: places, names and notes are hidden, and no page shows where anything lies. Not kept
    /// from start to start.
    bool inCompany() const { return in_company_; }
    void setInCompany(bool on);

  signals:
    void unitsChanged();
    void speechChanged();
    void companyChanged();

  private:
    UnitSystem units_;
    bool speaks_;
    bool in_company_ = false;
    QSet<QString> spoken_kinds_;
};

} // namespace heron::app
