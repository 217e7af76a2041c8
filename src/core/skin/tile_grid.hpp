// TileGrid: heights on a regular grid, kept in contiguous 8 × 8 blocks with the highest and lowest value of each, so
// that a cutter dropped on it or moved through it looks at few cells. Cell centres stand at origin + (i + ½, j +
// ½)·cell. Lengths in mm.
//
// Invariants (tested by number):
//  1. For every block, high(b) ≥ every value in it. Lowering a cell keeps it true; refresh(b) makes it exact.
//  2. Cells beyond width × height in the last blocks hold `outside` and never count.
#pragma once

#include <cstdint>
#include <limits>
#include <vector>

#include "core/plan/geometry.hpp"

namespace wren {

class TileGrid {
 public:
  static constexpr int side = 8;
  static constexpr int per_block = side * side;
  static constexpr float outside = -std::numeric_limits<float>::infinity();

  TileGrid() = default;
  /// Preconditions: width, height ≥ 1; cell > 0.
  TileGrid(Vec2 origin, double cell, int width, int height, float value)
      : origin_(origin),
        cell_(cell),
        width_(width),
        height_(height),
        blocks_x_((width + side - 1) / side),
        blocks_y_((height + side - 1) / side),
        cells_(static_cast<std::size_t>(blocks_x_) * static_cast<std::size_t>(blocks_y_) * per_block, outside),
        high_(static_cast<std::size_t>(blocks_x_) * static_cast<std::size_t>(blocks_y_) + side, value) {
    for (int j = 0; j < height; ++j)
      for (int i = 0; i < width; ++i) at(i, j) = value;
  }

  [[nodiscard]] int width() const { return width_; }
  [[nodiscard]] int height() const { return height_; }
  [[nodiscard]] int blocks_x() const { return blocks_x_; }
  [[nodiscard]] int blocks_y() const { return blocks_y_; }
  [[nodiscard]] double cell() const { return cell_; }
  [[nodiscard]] Vec2 origin() const { return origin_; }
  [[nodiscard]] Vec2 centre(int i, int j) const {
    return {origin_.x + (i + 0.5) * cell_, origin_.y + (j + 0.5) * cell_};
  }
  [[nodiscard]] std::size_t block_index(int bx, int by) const {
    return static_cast<std::size_t>(by) * static_cast<std::size_t>(blocks_x_) + static_cast<std::size_t>(bx);
  }
  [[nodiscard]] float* block(std::size_t b) { return cells_.data() + b * per_block; }
  [[nodiscard]] const float* block(std::size_t b) const { return cells_.data() + b * per_block; }
  [[nodiscard]] float& high(std::size_t b) { return high_[b]; }
  [[nodiscard]] float high(std::size_t b) const { return high_[b]; }
  [[nodiscard]] float& at(int i, int j) { return cells_[index(i, j)]; }
  [[nodiscard]] float at(int i, int j) const { return cells_[index(i, j)]; }
  /// The highs of a row of blocks; eight may be read from any of them on.
  [[nodiscard]] const float* row_highs(int by) const { return high_.data() + block_index(0, by); }
  [[nodiscard]] bool holds(int i, int j) const { return i >= 0 && j >= 0 && i < width_ && j < height_; }

  void refresh(std::size_t b) {
    float top = outside;
    for (int k = 0; k < per_block; ++k)
      top = cells_[b * per_block + static_cast<std::size_t>(k)] > top
                ? cells_[b * per_block + static_cast<std::size_t>(k)]
                : top;
    high_[b] = top;
  }
  void refresh_all() {
    for (std::size_t b = 0; b + side < high_.size(); ++b) refresh(b);
  }
  [[nodiscard]] std::size_t bytes() const { return (cells_.size() + high_.size()) * sizeof(float); }

 private:
  [[nodiscard]] std::size_t index(int i, int j) const {
    return block_index(i / side, j / side) * per_block + static_cast<std::size_t>((j % side) * side + i % side);
  }
  Vec2 origin_;
  double cell_ = 1;
  int width_ = 0;
  int height_ = 0;
  int blocks_x_ = 0;
  int blocks_y_ = 0;
  std::vector<float> cells_;
  std::vector<float> high_;
};

/// Cell corner (i, j) of block-row cell k within a block, as offsets in cells.
constexpr int cell_i(int k) { return k % TileGrid::side; }
constexpr int cell_j(int k) { return k / TileGrid::side; }

}  // namespace wren
