// Which edge of a film's panel moves.
#include "screen/film.hpp"
#include "screen/newest.hpp"
#include "screen/straighten.hpp"
#include "views/screen/screen_view.hpp"

namespace heron::app {

void ScreenView::suggestNewest() {
    if (looking_)
        looking_->cancel();
    looking_.reset();
    if (!film_ || device_ || circle())
        return;
    struct Moves {
        std::optional<NewestAt> newest;
        double middle = 0.5;
    };
    looking_ = context_.session.jobs.run<Moves>(
        tr("looking how the film scrolls"), this,
        [path = path_.toStdString(), c = calibration_](JobControl &) -> Result<Moves> {
            const auto pictures = first_pictures(path);
            if (!pictures)
                return tl::unexpected(pictures.error());
            Moves moves{newest_of(*pictures, c)};
            const bool level = moves.newest == NewestAt::top || moves.newest == NewestAt::bottom;
            if (moves.newest)
                moves.middle = guess_middle(upright_panel(pictures->front(), c), level).middle;
            return moves;
        },
        [this, path = path_](Result<Moves> moves) {
            if (path != path_)
                return;
            looking_.reset();
            // What a hand has said since stands.
            if (!moves || !moves->newest || newest_by_hand_ || remembered_ || circle())
                return;
            const bool was_level = calibration_.across_is_level();
            calibration_.newest = *moves->newest;
            if (calibration_.across_is_level() != was_level && !middle_by_hand_)
                calibration_.middle = moves->middle;
            told_ = tr("New rows come in at the orange edge, by how the film scrolls.");
            changed();
        });
}

} // namespace heron::app
