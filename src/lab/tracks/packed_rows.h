// Rows of numbers against time, kept small: what takes are made of.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

struct ZSTD_CCtx_s;
struct ZSTD_DCtx_s;

namespace bronvel {

/// Packs and unpacks stretches of bytes with zstd, keeping its tables from one to the next. Of one thread.
class Packer {
 public:
  Packer();
  ~Packer();
  Packer(const Packer&) = delete;
  Packer& operator=(const Packer&) = delete;
  std::string packed(std::span<const std::uint8_t> bytes);
  /// Into `bytes`, whose size is that of what was packed. Throws Error when it is not what `packed` gave.
  void unpack(const std::string& packed, std::span<std::uint8_t> bytes);

 private:
  ZSTD_CCtx_s* in_;
  ZSTD_DCtx_s* out_;
};

/// Rows of up to 16 numbers, one row a tick. A column is kept in whole multiples of its quantum, or, where that is 0,
/// as single floats; what differs from going on evenly (second differences) takes bytes, what stands still takes next
/// to none. Rows are packed 128 at a time.
class PackedRows {
 public:
  static constexpr int rows_a_chunk = 128;
  static constexpr std::size_t most_columns = 16;

  /// `quanta`: one a column; outlives this. `first_chunk`: how many rows the first chunk takes, so that many of them do
  /// not all become full in the same tick.
  explicit PackedRows(std::span<const double> quanta = {}, int first_chunk = rows_a_chunk);

  void add(const double* row, Packer& packer);
  std::int64_t rows() const { return rows_; }
  std::size_t columns() const { return quanta_.size(); }
  std::size_t bytes() const { return bytes_; }

  /// Where a row is found: it lies in the chunk's `first` and following ones.
  struct Place {
    std::int64_t chunk = -1;  ///< −1: before anything changed, all rows as the first
    std::int64_t first = 0;
    std::int64_t count = 0;
  };
  Place place(std::int64_t row) const;
  /// The rows of a chunk one after another. Throws Error where it was kept wrongly.
  void unpack(const Place& place, Packer& packer, std::vector<double>& rows) const;

  // To and from a file.
  /// What `read_packed_rows` takes, of bytes alone.
  void write(std::vector<std::uint8_t>& to) const;
  /// Throws Error when they are no such bytes.
  static PackedRows read(std::span<const std::uint8_t>& from, std::span<const double> quanta);

 private:
  using Whole = std::array<std::int64_t, most_columns>;
  struct Chunk {
    std::string packed;
    std::uint32_t raw = 0;  // bytes before packing
  };
  std::int64_t whole(double x, std::size_t column) const;
  double number(std::int64_t n, std::size_t column) const;
  void close(Packer& packer);

  std::span<const double> quanta_;
  int first_chunk_ = rows_a_chunk;
  std::int64_t rows_ = 0;
  std::int64_t still_ = 0;  // rows that are as the first one, at the beginning
  Whole first_{}, last_{}, step_{};
  std::vector<Chunk> chunks_;
  std::vector<std::uint8_t> open_;  // of the chunk that is being filled
  int open_rows_ = 0;
  std::size_t bytes_ = 0;
};

// Bytes of whole numbers and texts, as takes are written.
void put_number(std::vector<std::uint8_t>& to, std::int64_t n);
void put_text(std::vector<std::uint8_t>& to, const std::string& text);
/// These take it off the front. Throw Error where it ends too early.
std::int64_t take_number_off(std::span<const std::uint8_t>& from);
std::string take_text_off(std::span<const std::uint8_t>& from);

}  // namespace bronvel
