#include "reading/box_energy.hpp"

#include <algorithm>
#include <opencv2/imgproc.hpp>
#include <vector>

namespace heron {

cv::Mat box_energy_db(const cv::Mat &off, int lines, int columns) {
    cv::Mat linear, level;
    cv::exp(off * 0.2302585, linear);
    cv::blur(linear, linear, {columns, lines}, {-1, -1}, cv::BORDER_REPLICATE);
    cv::max(linear, 1e-4, linear);
    cv::log(linear, level);
    level *= 4.342945;
    std::vector<float> some;
    for (int y = 0; y < level.rows; y += 3)
        for (int x = 0; x < level.cols; x += 5)
            some.push_back(level.at<float>(y, x));
    if (some.empty())
        return level;
    const auto middle = some.begin() + static_cast<std::ptrdiff_t>(some.size() / 2);
    std::nth_element(some.begin(), middle, some.end());
    level -= *middle;
    return level;
}

} // namespace heron
