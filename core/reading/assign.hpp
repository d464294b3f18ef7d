// Which of these belongs to which of those: the assignment of least total cost.
#pragma once

#include <cstddef>
#include <vector>

namespace heron {

/// For a cost matrix (row by row, `columns` wide) the column of each row, −1 for none, so that the sum of
/// costs is least where a row left alone costs `alone`. Pairs that cost more than `alone` are never made.
/// The Hungarian method with potentials, O(n³) (Kuhn 1955, Munkres 1957; from memory).
std::vector<int> assign(const std::vector<double> &cost, std::size_t rows, std::size_t columns, double alone);

} // namespace heron
