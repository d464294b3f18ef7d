#include "sim/texture.hpp"

#include <cmath>
#include <opencv2/core.hpp>

namespace heron::sim {

std::vector<float> broad_noise(std::size_t knots, double step_m, double shortest_m, double longest_m,
                               double fall, std::mt19937 &random) {
    const int n = static_cast<int>(knots);
    std::normal_distribution<float> normal(0, 1);
    cv::Mat noise(n, n, CV_32FC1);
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x)
            noise.at<float>(y, x) = normal(random);
    cv::Mat spectrum;
    cv::dft(noise, spectrum, cv::DFT_COMPLEX_OUTPUT);
    const double around = static_cast<double>(n) * step_m;
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const double k = std::hypot(y <= n / 2 ? y : y - n, x <= n / 2 ? x : x - n),
                         wave = k > 0 ? around / k : 1e9;
            const bool within = wave >= shortest_m && wave <= longest_m;
            spectrum.at<cv::Vec2f>(y, x) *= within ? static_cast<float>(std::pow(k, -fall / 2)) : 0.0F;
        }
    cv::dft(spectrum, noise, cv::DFT_INVERSE | cv::DFT_REAL_OUTPUT);
    cv::Scalar mean, sd;
    cv::meanStdDev(noise, mean, sd);
    noise = (noise - mean[0]) / std::max(1e-30, sd[0]);
    return {noise.begin<float>(), noise.end<float>()};
}

} // namespace heron::sim
