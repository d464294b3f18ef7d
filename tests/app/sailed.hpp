// A lake of the test's own, sounded, opened and read in the window.
#pragma once

#include "files/json.hpp"
#include "programs.hpp"
#include "stage.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"

#include <fstream>
#include <string>

namespace heron::test {

class Sailed : public Stage {
  protected:
    /// Sounds the lake for so many seconds, opens the recording and waits until all of it is read; Read is
    /// shown.
    void sail(const nlohmann::json &lake, int seconds) {
        const auto scene = folder.file("lake.json"), recording = folder.file("lake.nc");
        std::ofstream(scene) << lake.dump();
        const auto made = test::run(test::program("heron") + " simulate " + scene + " " + recording +
                                    " --seconds " + std::to_string(seconds));
        ASSERT_EQ(made.code, 0) << made.out;
        session().playback.setSpeed(1000);
        session().sources.openRecording(QString::fromStdString(recording));
        ASSERT_TRUE(
            test::wait_for([&] { return session().sources.flow() == app::Sources::Flow::ended; }, 60000));
        ASSERT_TRUE(test::wait_for([&] { return program->reader.readUntil() >= scan().end(); }, 60000));
        key(Qt::Key_3);
    }
    app::ReadView &view() { return window->view<app::ReadView>(); }
    /// What the side says now.
    QString said() {
        view().side().grab();
        return view().side().said().join(QLatin1Char('\n'));
    }
};

} // namespace heron::test
