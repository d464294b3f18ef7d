// Grounds as they are: rough and patchy at every scale from a hand to a house.
#pragma once

#include <cstddef>
#include <random>
#include <vector>

namespace heron::sim {

/// A tile of noise, `knots` × `knots` values of zero mean and unit variance, which meets itself at its edges.
/// Its power falls with the wave number k as k^−fall, the same in all directions, over waves from
/// `shortest_m` to `longest_m`; there is none beyond. `fall` 0 is white, 2 gives every octave the same share,
/// 3 and more is smooth. Sea and lake floors lie between 2 and 4 (Jackson and Richardson 2007,
/// "High-Frequency Seafloor Acoustics", chapter 6: from memory). `knots`: a power of two.
std::vector<float> broad_noise(std::size_t knots, double step_m, double shortest_m, double longest_m,
                               double fall, std::mt19937 &random);

} // namespace heron::sim
