// A receiver that tells positions late, in the real window: found by opposite passes, mended by a press.
#include "stage.hpp"

#include "core/bottom/lambert_lane.hpp"
#include "kit/key_button.hpp"
#include "programs.hpp"
#include "recording/recording.hpp"

#include <cmath>

using namespace heron;
using namespace heron::app;

namespace {

class ReceiverClock : public test::Stage {};

} // namespace

// Two passes, there and back, over ground that knows itself again; the receiver tells positions 1.2 s late.
TEST_F(ReceiverClock, PositionsThatComeLateAreToldAndMended) {
    Scan sounded;
    test::sail_there_and_back(sounded, 1.2);
    const test::Folder kept;
    RecordingHead head;
    head.nav = sounded.nav;
    head.sound_speed_m_s = 1450;
    auto writer = RecordingWriter::create(kept.file("late.nc"), head);
    ASSERT_TRUE(writer) << writer.error().line();
    for (auto row = sounded.first(); row < sounded.end(); ++row)
        ASSERT_TRUE(writer->add(sounded.ping(row)));
    ASSERT_TRUE(writer->finish());

    session().playback.setSpeed(1000);
    session().sources.openRecording(QString::fromStdString(kept.file("late.nc")));
    ASSERT_TRUE(test::wait_for([&] { return session().sources.flow() == Sources::Flow::ended; }, 60000));
    key(Qt::Key_5);
    EXPECT_TRUE(notice().startsWith(QStringLiteral("late: positions have a gap of more than 2 s")))
        << "between the passes, under the file's own name: " << notice().toStdString();
    auto *late = find("positionsLate");
    ASSERT_TRUE(test::wait_for([&] { return late->isVisible(); }, 60000));
    EXPECT_TRUE(static_cast<KeyButton *>(late)->wordFits());
    const auto taken = [&] { return scan().installation.positions_late_s; };
    EXPECT_EQ(taken(), 0);
    const auto place = [&] {
        return LocalPlane(test::LambertLane().origin)
            .to_plane(scan().nav.fix_at(sounded.ping(300).time)->pose.antenna);
    };
    const auto told = place();
    key(Qt::Key_P, Qt::ShiftModifier);
    EXPECT_NEAR(taken(), 1.2, 0.15);
    EXPECT_NEAR(place().north_m - told.north_m, 1.2 * 1.4, 0.25) << "the boat runs north there";
    EXPECT_TRUE(test::wait_for(
        [&] { return program->chart.finished() && program->chart.sheet() && program->chart.sheet()->clocks; },
        60000));
    EXPECT_LT(std::fabs(program->chart.sheet()->clocks->positions_late_s), 0.15)
        << "what was laid anew lies where it is";
    EXPECT_TRUE(late->isVisible());
    EXPECT_TRUE(static_cast<KeyButton *>(late)->isChecked());
    QTest::mouseClick(late, Qt::LeftButton);
    EXPECT_EQ(taken(), 0);
    EXPECT_NEAR(place().north_m, told.north_m, 1e-6);
}
