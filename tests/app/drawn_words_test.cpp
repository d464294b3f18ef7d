// No word on the screen is cut, left off or laid over another: in English, and in a made-up language whose
// words are two fifths longer.
#include "drawn_words.hpp"
#include "stage.hpp"

#include <QRegularExpression>
#include <QTranslator>

using namespace heron;
using namespace heron::app;

namespace {

/// Each word of three letters and more is drawn out by two fifths; what stands for figures, and signs of
/// units, stays.
QString drawn_out(const QString &text) {
    static const QRegularExpression part(
        QStringLiteral("%L?[0-9]+|%n|<[^>]*>|&[a-z]+;|[A-Za-z]+|[^A-Za-z%<&]+|."));
    QString out;
    for (auto at = part.globalMatch(text); at.hasNext();) {
        auto word = at.next().captured();
        if (word.size() > 2 && word.at(0).isLetter()) {
            const auto more = (2 * word.size() + 4) / 5;
            const auto vowel = word.indexOf(
                QRegularExpression(QStringLiteral("[aeiouy]"), QRegularExpression::CaseInsensitiveOption));
            const auto place = vowel < 0 ? word.size() - 1 : vowel;
            word.insert(place + 1, QString(more, word.at(place).toLower()));
        }
        out += word;
    }
    return out;
}

class LongLanguage : public QTranslator {
  public:
    bool isEmpty() const override { return false; }
    QString translate(const char *, const char *source, const char *, int n) const override {
        auto text = drawn_out(QString::fromUtf8(source));
        if (n >= 0)
            text.replace(QStringLiteral("%n"), QString::number(n));
        return text;
    }
};

class Words : public test::Stage {
  protected:
    QStringList found; ///< what is wrong, each once

    void look(const QString &where) {
        for (auto *w : window->findChildren<QWidget *>()) {
            if (!w->isVisible() || w->visibleRegion().isEmpty())
                continue;
            const bool moves = test::scrolls(*w);
            const auto words = test::drawn_words(*w);
            const auto tell = [&](const QString &what, const QString &text) {
                const auto line = QStringLiteral("%1: %2 %3 \"%4\" %5")
                                      .arg(where, QString::fromLatin1(w->metaObject()->className()),
                                           w->objectName(), text, what);
                if (!found.contains(line))
                    found << line;
            };
            for (std::size_t i = 0; i < words.size(); ++i) {
                const auto &a = words[i];
                if (a.cut_across || (a.cut_down && !moves))
                    tell(a.cut_across ? QStringLiteral("is cut across") : QStringLiteral("is cut down"),
                         a.text);
                if (a.elided())
                    tell(QStringLiteral("is left off"), a.text);
                for (std::size_t j = i + 1; j < words.size(); ++j) {
                    const auto &b = words[j];
                    const auto both = a.at & b.at;
                    const double area = both.width() * both.height(),
                                 least = std::min(a.at.width() * a.at.height(), b.at.width() * b.at.height());
                    if (a.text != b.text && both.isValid() && area > 0.25 * least)
                        tell(QStringLiteral("lies over \"%1\"").arg(b.text), a.text);
                }
            }
        }
    }
    void walk(const QString &what,
              const std::vector<QSize> &sizes = {{1024, 680}, {1280, 800}, {1920, 1080}}) {
        for (const auto &size : sizes) {
            window->resize(size);
            ASSERT_TRUE(test::wait_for([&] { return window->size() == size; }));
            for (const auto &p : allPlaces()) {
                window->go(p.id);
                QTest::qWait(60);
                look(QStringLiteral("%1, %2 at %3").arg(what, p.id).arg(size.width()));
            }
        }
    }
    void expect_whole() {
        for (const auto &line : found)
            ADD_FAILURE() << line.toStdString();
    }
    void with_marks() {
        std::vector<Mark> some;
        for (int i = 0; i < 6; ++i) {
            Mark m;
            m.id = "words-" + std::to_string(i);
            m.family = i % 2 == 0 ? Family::structure : Family::fish;
            m.kind = i % 2 == 0 ? Kind::rock_pile : Kind::fish_group;
            m.time = 1'800'000'000LL * ns_per_s + i * 600 * ns_per_s;
            m.place = GeoPoint{46.5 + 0.0004 * i, -21.25 + 0.0003 * i};
            m.place_covariance = {1, 0, 1};
            m.depth_m = Estimate{4.1 + i, 0.2};
            m.height_m = Estimate{1.2, 0.1};
            m.side = "port";
            m.note = "zander at dusk";
            some.push_back(m);
        }
        ASSERT_TRUE(marks().add(some[0]));
        for (std::size_t i = 1; i < some.size(); ++i)
            ASSERT_TRUE(marks().add(some[i]));
    }
    void with_a_recording() {
        play_sample();
        ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
    }
};

class LongWords : public Words {
  protected:
    LongLanguage language;
    void SetUp() override {
        qApp->installTranslator(&language);
        Words::SetUp();
    }
    void TearDown() override {
        Words::TearDown();
        qApp->removeTranslator(&language);
    }
};

} // namespace

TEST(DrawnOut, WordsGrowAndFiguresStay) {
    EXPECT_EQ(drawn_out(QStringLiteral("Marks")), QStringLiteral("Maaarks"));
    EXPECT_EQ(drawn_out(QStringLiteral("%1 ft of %2")), QStringLiteral("%1 ft of %2"));
    EXPECT_EQ(drawn_out(QStringLiteral("<b>Open</b>")), QStringLiteral("<b>Ooopen</b>"));
    EXPECT_EQ(drawn_out(QStringLiteral("%n mark(s)")), QStringLiteral("%n maaark(s)"));
}

TEST_F(Words, AreWholeWithNothingThere) {
    walk(QStringLiteral("empty"));
    expect_whole();
}

TEST_F(Words, AreWholeWithARecordingAndMarks) {
    with_marks();
    with_a_recording();
    walk(QStringLiteral("full"));
    expect_whole();
}

TEST_F(LongWords, AreWholeWithNothingThere) {
    walk(QStringLiteral("empty"));
    expect_whole();
}

TEST_F(LongWords, AreWholeWithARecordingAndMarks) {
    with_marks();
    with_a_recording();
    walk(QStringLiteral("full"));
    expect_whole();
}
