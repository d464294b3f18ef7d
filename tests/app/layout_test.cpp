// Every place at every size that the window allows: nothing lies on anything else, no word on a key is cut.
#include "stage.hpp"

#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/paper.hpp"
#include "kit/theme.hpp"
#include "sailed.hpp"
#include "views/marks/marks_view.hpp"
#include "views/prepare/prepare_view.hpp"

#include <QAbstractButton>
#include <QComboBox>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QShortcut>

using namespace heron;
using namespace heron::app;

namespace {

const QSize sizes[] = {{1024, 680}, {1280, 800}, {1920, 1080}};

class Layout : public test::Stage {
  protected:
    /// What a hand or an eye aims at, and is on the screen.
    std::vector<QWidget *> parts() {
        std::vector<QWidget *> all;
        for (auto *w : window->findChildren<QWidget *>()) {
            const bool part =
                qobject_cast<KeyButton *>(w) != nullptr || qobject_cast<QLineEdit *>(w) != nullptr ||
                qobject_cast<QComboBox *>(w) != nullptr || qobject_cast<PaperLabel *>(w) != nullptr ||
                qobject_cast<ItemList *>(w) != nullptr || qobject_cast<QPlainTextEdit *>(w) != nullptr;
            // Keys of a page that is not shown are put aside, out of their parent.
            if (part && w->isVisible() && w->parentWidget()->rect().intersects(w->geometry()) &&
                w->visibleRegion().boundingRect().isValid())
                all.push_back(w);
        }
        return all;
    }
    QRect on_window(const QWidget *w) { return {w->mapTo(window.get(), QPoint(0, 0)), w->size()}; }
    void expect_in_order(const QString &where) {
        const auto all = parts();
        EXPECT_FALSE(all.empty()) << where.toStdString();
        const auto name = [](const QWidget *w) {
            const auto *key = qobject_cast<const KeyButton *>(w);
            return (w->objectName() + QLatin1Char(' ') + (key != nullptr ? key->text() : QString()))
                .toStdString();
        };
        for (auto *w : all) {
            EXPECT_TRUE(window->rect().contains(on_window(w))) << where.toStdString() << ": " << name(w);
            EXPECT_TRUE(w->parentWidget()->rect().contains(w->geometry()))
                << where.toStdString() << ": " << name(w) << " leaves its parent";
            if (const auto *key = qobject_cast<KeyButton *>(w))
                EXPECT_TRUE(key->wordFits()) << where.toStdString() << ": " << name(w) << " " << key->width();
        }
        for (std::size_t i = 0; i < all.size(); ++i)
            for (std::size_t j = i + 1; j < all.size(); ++j)
                if (!all[i]->isAncestorOf(all[j]) && !all[j]->isAncestorOf(all[i]))
                    EXPECT_FALSE(on_window(all[i]).intersects(on_window(all[j])))
                        << where.toStdString() << ": " << name(all[i]) << " and " << name(all[j]);
    }
    void walk(const QString &what) {
        for (const auto &size : sizes) {
            window->resize(size);
            ASSERT_TRUE(test::wait_for([&] { return window->size() == size; }));
            for (const auto &p : allPlaces()) {
                window->go(p.id);
                QTest::qWait(30);
                if (p.id == place::around || p.id == place::chart || p.id == place::log ||
                    p.id == place::practice)
                    continue; // a page of words
                expect_in_order(QStringLiteral("%1, %2 at %3").arg(what, p.title).arg(size.width()));
            }
        }
    }
};

} // namespace

TEST_F(Layout, HoldsWithNothingThereYet) {
    walk(QStringLiteral("empty"));
}

// A letter that stands on two keys that are there at once does neither.
TEST_F(Layout, NoLetterMeansTwoThings) {
    play_sample();
    for (const auto &p : allPlaces()) {
        window->go(p.id);
        QTest::qWait(60);
        std::map<QString, QStringList> of;
        for (const auto *key : window->findChildren<QAbstractButton *>())
            if (key->isVisible() && !key->shortcut().isEmpty())
                of[key->shortcut().toString()] << key->objectName();
        for (const auto *shortcut : window->findChildren<QShortcut *>())
            if (shortcut->isEnabled() && shortcut->parent()->isWidgetType() &&
                static_cast<QWidget *>(shortcut->parent())->isVisible())
                of[shortcut->key().toString()] << QStringLiteral("the window");
        EXPECT_GT(of.size(), 8u) << p.id.toStdString();
        for (const auto &[letter, all] : of)
            EXPECT_EQ(all.size(), 1) << p.title.toStdString() << ": " << letter.toStdString() << " is "
                                     << all.join(QStringLiteral(" and ")).toStdString();
    }
}

// A white page in the dark takes a guide's eyes for minutes.
TEST_F(Layout, EveryPlaceFollowsTheLight) {
    for (int light = 0; light < 4; ++light) {
        for (const auto &p : allPlaces()) {
            window->go(p.id);
            QTest::qWait(30);
            const auto shown = window->grab().toImage();
            const auto page = colour("page").rgb();
            int of_page = 0, all = 0;
            for (int y = 60; y < shown.height(); y += 3)
                for (int x = 100; x < shown.width(); x += 3) {
                    of_page += shown.pixel(x, y) == page ? 1 : 0;
                    ++all;
                }
            EXPECT_GT(of_page, all * 3 / 10)
                << p.title.toStdString() << " in " << Theme::instance().lightTitle().toStdString();
        }
        key(Qt::Key_T);
    }
}

TEST_F(Layout, TheReasonsBeforeATripAreReadWhole) {
    window->go(place::prepare);
    auto &prepare = window->view<PrepareView>();
    ASSERT_TRUE(test::wait_for([&] { return prepare.answer().has_value(); }));
    for (const auto &size : sizes) {
        window->resize(size);
        ASSERT_TRUE(test::wait_for([&] { return window->size() == size; }));
        for (int i = 0; i < 2; ++i) { // feet and metres
            key(Qt::Key_N);
            ASSERT_TRUE(test::wait_for([&] { return prepare.answer().has_value(); }));
            window->grab();
            EXPECT_TRUE(prepare.wordsFit()) << size.width() << ' ' << i;
        }
    }
}

TEST_F(Layout, WordsOfAnEmptyPlaceStandTogether) {
    window->go(place::marks);
    QTest::qWait(30);
    int lowest = 0;
    for (auto *w : window->view<MarksView>().findChildren<PaperLabel *>())
        if (w->isVisible())
            lowest = std::max(lowest, on_window(w).bottom());
    EXPECT_GT(lowest, 0);
    EXPECT_LT(lowest, window->height() / 3);
}

TEST_F(Layout, HoldsWhileSounding) {
    test::SounderProcess sounder({QStringLiteral("--speed-up"), QStringLiteral("4")});
    session().sources.listenTo(sounder.sources);
    ASSERT_TRUE(rows(200));
    walk(QStringLiteral("asking for conditions"));
    window->go(place::scan);
    skip_conditions();
    walk(QStringLiteral("sounding"));
    window->go(place::scan);
    key(Qt::Key_D);
    QTest::mouseClick(&picture(), Qt::LeftButton, Qt::NoModifier,
                      on_picture(picture().topRow() - 40, Side::port, 13));
    for (const auto &size : sizes) {
        window->resize(size);
        QTest::qWait(60);
        expect_in_order(QStringLiteral("measuring at %1").arg(size.width()));
    }
}
