// Means of energy over boxes of a swath, as levels: what a grain that fills a box in part only does not drown
// in.
#pragma once

#include <opencv2/core.hpp>

namespace heron {

/// `off`: decibels over the local background (CV_32F, a line a ping). Of each cell the mean of energy over a
/// box of so many lines and columns about it, dB over the median of such means.
cv::Mat box_energy_db(const cv::Mat &off, int lines, int columns);

} // namespace heron
