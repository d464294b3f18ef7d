#include "views/marks/many_page.hpp"

#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"
#include "marks/mark_json.hpp"

#include <QGridLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

namespace heron::app {

ManyPage::ManyPage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 84, 0, 0);
    column->setSpacing(8);
    const auto field = [this](const char *name, const QString &placeholder) {
        auto *f = new QLineEdit(this);
        f->setObjectName(QString::fromLatin1(name));
        f->setPlaceholderText(placeholder);
        f->setMinimumHeight(44);
        return f;
    };
    const auto key = [this](const char *name, const QString &text, const QString &tip) {
        auto *k = new KeyButton(QString(), text, QKeySequence(), tip, this);
        k->setObjectName(QString::fromLatin1(name));
        k->setFixedHeight(48);
        return k;
    };
    const auto choice = [this](const char *name) {
        auto *c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setMinimumHeight(44);
        return c;
    };
    auto *grid = new QGridLayout;
    grid->setSpacing(8);
    grid->addWidget(tag_ = field("manyTag", tr("a tag")), 0, 0, 1, 2);
    grid->addWidget(add_tag_ = key("manyAddTag", tr("Add the tag"), tr("Each bears this tag from now on")), 1,
                    0);
    grid->addWidget(take_tag_ = key("manyTakeTag", tr("Take it off"), tr("None bears this tag any more")), 1,
                    1);
    grid->addWidget(water_ = field("manyWater", tr("a water")), 2, 0);
    grid->addWidget(set_water_ = key("manySetWater", tr("Lie in it"), tr("All lie in this water")), 2, 1);
    grid->addWidget(kind_ = choice("manyKind"), 3, 0);
    kind_->addItem(tr("all are of kind …"), -1);
    for (const auto k : kinds_of(Family::unsure))
        kind_->addItem(wordFor(k), static_cast<int>(k));
    grid->addWidget(level_ = choice("manyLevel"), 3, 1);
    level_->addItem(tr("who may see them …"), -1);
    level_->addItem(tr("for me alone"), static_cast<int>(Level::me));
    level_->addItem(tr("for the crew"), static_cast<int>(Level::crew));
    level_->addItem(tr("for clients too"), static_cast<int>(Level::client));
    level_->addItem(tr("for anyone"), static_cast<int>(Level::anyone));
    column->addLayout(grid);
    column->addStretch(1);
    column->addWidget(remove_ =
                          key("manyRemove", tr("Remove them all"), tr("Press twice; Undo brings them back")));
    connect(add_tag_, &KeyButton::clicked, this, [this] {
        const auto tag = tag_->text().trimmed().left(60).toStdString();
        if (!tag.empty())
            each([&tag](Mark &m) {
                if (std::find(m.tags.begin(), m.tags.end(), tag) == m.tags.end() &&
                    m.tags.size() < MarkBounds::tags)
                    m.tags.push_back(tag);
            });
    });
    connect(take_tag_, &KeyButton::clicked, this, [this] {
        const auto tag = tag_->text().trimmed().toStdString();
        each([&tag](Mark &m) { std::erase(m.tags, tag); });
    });
    connect(set_water_, &KeyButton::clicked, this, [this] {
        const auto water = water_->text().trimmed().left(150).toStdString();
        if (!water.empty())
            each([&water](Mark &m) { m.lake = water; });
    });
    connect(kind_, &QComboBox::activated, this, [this] {
        const int kind = kind_->currentData().toInt();
        kind_->setCurrentIndex(0);
        // A mark keeps its family: a kind that is none of it is not taken.
        if (kind >= 0)
            each([kind](Mark &m) {
                const auto kinds = kinds_of(m.family);
                if (std::find(kinds.begin(), kinds.end(), static_cast<Kind>(kind)) != kinds.end())
                    m.kind = static_cast<Kind>(kind);
            });
    });
    connect(level_, &QComboBox::activated, this, [this] {
        const int level = level_->currentData().toInt();
        level_->setCurrentIndex(0);
        if (level >= 0)
            each([level](Mark &m) { m.level = static_cast<Level>(level); });
    });
    connect(remove_, &KeyButton::clicked, this, &ManyPage::removeAll);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void ManyPage::setMarks(std::vector<std::string> ids) {
    std::sort(ids.begin(), ids.end());
    if (ids != ids_) {
        sure_ = false;
        remove_->setText(tr("Remove them all"));
    }
    ids_ = std::move(ids);
    for (QWidget *w :
         std::initializer_list<QWidget *>{add_tag_, take_tag_, set_water_, kind_, level_, remove_})
        w->setEnabled(!ids_.empty());
    update();
}

void ManyPage::each(const std::function<void(Mark &)> &change) {
    std::vector<Mark> changed;
    for (const auto &m : context_.marks.all()) {
        if (!std::binary_search(ids_.begin(), ids_.end(), m.id))
            continue;
        auto other = m;
        change(other);
        if (other.tags != m.tags || other.lake != m.lake || other.kind != m.kind || other.level != m.level)
            changed.push_back(std::move(other));
    }
    if (changed.empty())
        context_.session.notices.say(QStringLiteral("mark"), tr("They are so already: nothing was changed."));
    else if (context_.marks.changeAll(changed))
        context_.session.notices.say(
            QStringLiteral("mark"),
            tr("%1 changed; Undo takes that back.").arg(counted(changed.size(), tr("mark"), tr("marks"))));
}

void ManyPage::removeAll() {
    if (!sure_) {
        sure_ = true;
        remove_->setText(tr("Press again: remove %1").arg(counted(ids_.size(), tr("mark"), tr("marks"))));
        return;
    }
    const auto count = ids_.size();
    sure_ = false;
    remove_->setText(tr("Remove them all"));
    if (context_.marks.removeAll(std::vector<std::string>(ids_)))
        context_.session.notices.say(
            QStringLiteral("mark"),
            tr("%1 removed; Undo brings them back.").arg(counted(count, tr("mark"), tr("marks"))));
}

void ManyPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    const auto write = wordsOn(p);
    write(0, 20, tr("%1 that the wall shows").arg(counted(ids_.size(), tr("mark"), tr("marks"))), 17, true,
          "ink");
    p.setFont(Theme::instance().font(13));
    p.setPen(colour("ink2"));
    paintParagraph(
        p, {0, 28, static_cast<double>(width()), 54},
        tr("Find narrows the wall. What is done here is done to all of them, and one Undo takes it back."));
}

} // namespace heron::app
