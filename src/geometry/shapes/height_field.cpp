// The triangles of a height field.
#include "geometry/shapes/height_field.h"

#include "geometry/base/error.h"

namespace bronvel {
namespace {

struct Corner {
  std::uint32_t column, row;
};

// Triangle `index`: even ones hold the cell's corner of least X and Z, odd ones the corner across.
std::array<Corner, 3> corners_of(const HeightFieldData& f, std::uint32_t index) {
  const std::uint32_t cell = index / 2, column = cell % (f.columns - 1), row = cell / (f.columns - 1);
  if (index % 2 == 0) return {Corner{column, row}, {column, row + 1}, {column + 1, row}};
  return {Corner{column + 1, row + 1}, {column + 1, row}, {column, row + 1}};
}

Vec3 normal_of(const HeightFieldData& f, std::uint32_t index) {
  const auto c = corners_of(f, index);
  const Vec3 a = f.point(c[0].column, c[0].row);
  return (f.point(c[1].column, c[1].row) - a).cross(f.point(c[2].column, c[2].row) - a).normalized();
}

// Cells from first to last along one side that may hold coordinates from low to high.
std::pair<std::int64_t, std::int64_t> cells(double low, double high, double spacing, std::uint32_t points) {
  const double from = -0.5 * spacing * (points - 1);
  const auto cell = [&](double x) {
    return static_cast<std::int64_t>(std::floor(std::clamp((x - from) / spacing, -1.0, static_cast<double>(points))));
  };
  return {std::max<std::int64_t>(cell(low), 0),
          std::min<std::int64_t>(cell(high), static_cast<std::int64_t>(points) - 2)};
}

}  // namespace

bool operator==(const HeightField& a, const HeightField& b) {
  return a.data == b.data || (a.data && b.data && a.data->columns == b.data->columns && a.data->rows == b.data->rows &&
                              a.data->spacing_x == b.data->spacing_x && a.data->spacing_z == b.data->spacing_z &&
                              a.data->heights == b.data->heights);
}

Vec3 HeightFieldData::point(std::uint32_t column, std::uint32_t row) const {
  return {spacing_x * (column - 0.5 * (columns - 1)), heights[static_cast<std::size_t>(row) * columns + column],
          spacing_z * (row - 0.5 * (rows - 1))};
}

std::size_t HeightFieldData::facet_count() const {
  return 2 * static_cast<std::size_t>(columns - 1) * (rows - 1);
}

Facet HeightFieldData::facet(std::uint32_t index) const {
  Facet f;
  const auto c = corners_of(*this, index);
  for (std::size_t i = 0; i < 3; ++i) f.corners[i] = point(c[i].column, c[i].row);
  f.normal = normal_of(*this, index);
  // The field ends below its lowest point.
  f.depth = bounds.high.y() - bounds.low.y() + std::max(spacing_x, spacing_z);
  const std::uint32_t across = columns - 1, cell = index / 2, column = cell % across, row = cell / across;
  const auto neighbour = [&](std::size_t edge, bool there, std::uint32_t other) {
    if (there) f.beyond[edge] = normal_of(*this, other);
  };
  if (index % 2 == 0) {
    neighbour(0, column > 0, index - 1);
    neighbour(1, true, index + 1);
    neighbour(2, row > 0, index - 2 * across + 1);
  } else {
    neighbour(0, column + 1 < across, index + 1);
    neighbour(1, true, index - 1);
    neighbour(2, row + 2 < rows, index + 2 * across - 1);
  }
  return f;
}

void HeightFieldData::near(const Bounds& box, std::vector<std::uint32_t>& found) const {
  if (!bounds.overlaps(box)) return;
  const auto [first_column, last_column] = cells(box.low.x(), box.high.x(), spacing_x, columns);
  const auto [first_row, last_row] = cells(box.low.z(), box.high.z(), spacing_z, rows);
  for (std::int64_t row = first_row; row <= last_row; ++row)
    for (std::int64_t column = first_column; column <= last_column; ++column) {
      const auto index = static_cast<std::uint32_t>(2 * (row * (columns - 1) + column));
      found.push_back(index);
      found.push_back(index + 1);
    }
}

void HeightFieldData::along(const Vec3& origin, const Vec3& direction, double reach,
                            std::vector<std::uint32_t>& found) const {
  // Cut to the field's bounds, then cell by cell along the longer way.
  const Vec3 inverse = inverse_direction(direction);
  double near_end = 0, far_end = reach;
  for (int i = 0; i < 3; ++i) {
    const double a = (bounds.low[i] - origin[i]) * inverse[i], b = (bounds.high[i] - origin[i]) * inverse[i];
    near_end = std::max(near_end, std::min(a, b));
    far_end = std::min(far_end, std::max(a, b));
  }
  if (near_end > far_end) return;
  const double stride = std::min(spacing_x, spacing_z);
  const double across = std::hypot(direction.x(), direction.z());
  const double step = across > 1e-9 ? stride / across : far_end - near_end + 1;
  const auto steps = static_cast<std::int64_t>((far_end - near_end) / step);
  for (std::int64_t i = 0; i <= steps; ++i) {
    const double t = near_end + static_cast<double>(i) * step;
    const Vec3 from = origin + t * direction, to = origin + std::min(t + step, far_end) * direction;
    near({from.cwiseMin(to).array() - 1e-9, from.cwiseMax(to).array() + 1e-9}, found);
  }
  std::sort(found.begin(), found.end());
  found.erase(std::unique(found.begin(), found.end()), found.end());
}

HeightField make_height_field(std::uint32_t columns, std::uint32_t rows, double spacing_x, double spacing_z,
                              std::vector<double> heights) {
  if (columns < 2 || rows < 2) throw Error("height_field", "wants at least 2 × 2 points");
  if (columns > 20000 || rows > 20000) throw Error("height_field", "is larger than 20,000 × 20,000 points");
  if (heights.size() != static_cast<std::size_t>(columns) * rows)
    throw Error("height_field", "wants " + std::to_string(static_cast<std::size_t>(columns) * rows) +
                                    " heights, columns × rows, got " + std::to_string(heights.size()));
  for (const double spacing : {spacing_x, spacing_z})
    if (!(spacing >= 1e-6 && spacing <= 1e6)) throw Error("height_field", "spacing must be from 1e-6 to 1e6 m");
  auto data = std::make_shared<HeightFieldData>();
  data->columns = columns;
  data->rows = rows;
  data->spacing_x = spacing_x;
  data->spacing_z = spacing_z;
  double low = heights[0], high = heights[0];
  for (std::size_t i = 0; i < heights.size(); ++i) {
    if (!finite(heights[i]) || std::abs(heights[i]) > 1e6)
      throw Error("height_field", "height " + std::to_string(i + 1) + " is not a number within 1e6 m");
    low = std::min(low, heights[i]);
    high = std::max(high, heights[i]);
  }
  data->heights = std::move(heights);
  const double half_x = 0.5 * spacing_x * (columns - 1), half_z = 0.5 * spacing_z * (rows - 1);
  data->bounds = {{-half_x, low, -half_z}, {half_x, high, half_z}};
  return {std::move(data)};
}

}  // namespace bronvel
