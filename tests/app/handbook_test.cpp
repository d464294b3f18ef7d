// The handbook behind F1: the page of the place that was shown, every page whole, all of it as PDF.
#include "kit/key_button.hpp"
#include "stage.hpp"
#include "views/handbook/handbook_view.hpp"

#include <QFileInfo>

using namespace heron;
using namespace heron::app;

namespace {

class Handbook : public test::Stage {
  protected:
    HandbookView &book() { return window->view<HandbookView>(); }
};

} // namespace

TEST_F(Handbook, EachPlaceHasItsPageAndTheWayBack) {
    for (const auto &[where, words] : {std::pair{place::prepare, "what the smallest thing is"},
                                       {place::scan, "Now is at the top"},
                                       {place::read, "What it may be"},
                                       {place::around, "centre is the bow"},
                                       {place::chart, "not for navigation"},
                                       {place::marks, "wall of pictures"},
                                       {place::log, "What the record supports"},
                                       {place::practice, "drained"},
                                       {place::screen, "four corners"}}) {
        window->go(where);
        key(Qt::Key_F1);
        EXPECT_EQ(window->current(), place::handbook);
        EXPECT_TRUE(book().text().contains(QString::fromLatin1(words)))
            << words << book().text().left(60).toStdString();
        press("handbookBack");
        EXPECT_EQ(window->current(), where);
    }
}

TEST_F(Handbook, EveryPageIsThereAndTheCautionsComeFirst) {
    window->go(place::connections);
    key(Qt::Key_F1);
    EXPECT_EQ(book().page(), 0);
    EXPECT_TRUE(book().text().contains(QStringLiteral("Eyes on the water first")));
    for (int i = 0; i < book().pages(); ++i) {
        press((QByteArray("page") + QByteArray::number(i)).constData());
        EXPECT_EQ(book().page(), i);
        EXPECT_GT(book().text().size(), 300) << i;
    }
}

TEST_F(Handbook, IsWrittenAsOnePdf) {
    const auto file = QString::fromStdString(folder.file("handbook.pdf"));
    ASSERT_TRUE(book().saveAs(file));
    const auto told = test::run("pdfinfo " + file.toStdString());
    EXPECT_NE(told.out.find("PDF version"), std::string::npos) << told.out;
    EXPECT_GT(QFileInfo(file).size(), 20'000);
    EXPECT_FALSE(book().saveAs(QStringLiteral("/nowhere/at/all.pdf")));
}

TEST_F(Handbook, KeysAreWholeInASmallWindow) {
    window->resize(1024, 680);
    window->go(place::handbook);
    QTest::qWait(50);
    for (auto *key : book().findChildren<KeyButton *>()) {
        EXPECT_TRUE(key->wordFits()) << key->objectName().toStdString();
        EXPECT_GE(key->height(), 44) << key->objectName().toStdString();
    }
}
