// Packing rows.
#include "lab/tracks/packed_rows.h"

#include <zstd.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include "geometry/base/error.h"

namespace bronvel {
namespace {

// Fast: what takes are recorded with must not be felt in play.
constexpr int effort = 1;
// Farther than this many quanta a number is not kept exactly; whole numbers up to here can be taken from each other.
constexpr double most_quanta = 1e15;

[[noreturn]] void rows_broken() {
  throw Error("take", "what was recorded can't be read: it is not as it was written");
}

std::uint64_t folded(std::int64_t n) {
  return (static_cast<std::uint64_t>(n) << 1) ^ static_cast<std::uint64_t>(n >> 63);
}
std::int64_t unfolded(std::uint64_t n) {
  return static_cast<std::int64_t>(n >> 1) ^ -static_cast<std::int64_t>(n & 1);
}

// Sums that wrap around instead of overflowing: floats as whole numbers reach far apart.
std::int64_t plus(std::int64_t a, std::int64_t b) {
  return static_cast<std::int64_t>(static_cast<std::uint64_t>(a) + static_cast<std::uint64_t>(b));
}
std::int64_t minus(std::int64_t a, std::int64_t b) {
  return static_cast<std::int64_t>(static_cast<std::uint64_t>(a) - static_cast<std::uint64_t>(b));
}

}  // namespace

namespace {

constexpr std::size_t most_number_bytes = 10;

// Where the next one goes.
std::uint8_t* put_number_at(std::uint8_t* to, std::int64_t n) {
  std::uint64_t rest = folded(n);
  for (; rest >= 0x80; rest >>= 7) *to++ = static_cast<std::uint8_t>(rest | 0x80);
  *to++ = static_cast<std::uint8_t>(rest);
  return to;
}

}  // namespace

void put_number(std::vector<std::uint8_t>& to, std::int64_t n) {
  std::array<std::uint8_t, most_number_bytes> bytes;
  to.insert(to.end(), bytes.data(), put_number_at(bytes.data(), n));
}

std::int64_t take_number_off(std::span<const std::uint8_t>& from) {
  std::uint64_t n = 0;
  for (unsigned shift = 0; shift < 64; shift += 7) {
    if (from.empty()) rows_broken();
    const std::uint8_t byte = from.front();
    from = from.subspan(1);
    n |= static_cast<std::uint64_t>(byte & 0x7F) << shift;
    if (byte < 0x80) return unfolded(n);
  }
  rows_broken();
}

void put_text(std::vector<std::uint8_t>& to, const std::string& text) {
  put_number(to, static_cast<std::int64_t>(text.size()));
  to.insert(to.end(), text.begin(), text.end());
}

std::string take_text_off(std::span<const std::uint8_t>& from) {
  const std::int64_t size = take_number_off(from);
  if (size < 0 || static_cast<std::uint64_t>(size) > from.size()) rows_broken();
  std::string text(from.begin(), from.begin() + size);
  from = from.subspan(static_cast<std::size_t>(size));
  return text;
}

Packer::Packer() : in_(ZSTD_createCCtx()), out_(ZSTD_createDCtx()) {
  if (!in_ || !out_) throw std::bad_alloc();
}

Packer::~Packer() {
  ZSTD_freeCCtx(in_);
  ZSTD_freeDCtx(out_);
}

std::string Packer::packed(std::span<const std::uint8_t> bytes) {
  std::string text(ZSTD_compressBound(bytes.size()), '\0');
  const std::size_t size = ZSTD_compressCCtx(in_, text.data(), text.size(), bytes.data(), bytes.size(), effort);
  if (ZSTD_isError(size) != 0) throw Error("take", std::string("can't be packed: ") + ZSTD_getErrorName(size));
  text.resize(size);
  text.shrink_to_fit();
  return text;
}

void Packer::unpack(const std::string& packed, std::span<std::uint8_t> bytes) {
  const std::size_t size = ZSTD_decompressDCtx(out_, bytes.data(), bytes.size(), packed.data(), packed.size());
  if (ZSTD_isError(size) != 0 || size != bytes.size()) rows_broken();
}

PackedRows::PackedRows(std::span<const double> quanta, int first_chunk) : quanta_(quanta), first_chunk_(first_chunk) {}

std::int64_t PackedRows::whole(double x, std::size_t column) const {
  const double quantum = quanta_[column];
  if (quantum > 0) {
    // To the nearest; the library's own way to do that is a call, and this is done for every number of a take.
    const double quanta = std::clamp(x / quantum, -most_quanta, most_quanta);
    return static_cast<std::int64_t>(quanta + (quanta < 0 ? -0.5 : 0.5));
  }
  // As whole numbers floats are in the order of their values.
  const auto bits = std::bit_cast<std::int32_t>(static_cast<float>(x));
  return bits >= 0 ? bits : std::int64_t{std::numeric_limits<std::int32_t>::min()} - bits;
}

double PackedRows::number(std::int64_t n, std::size_t column) const {
  const double quantum = quanta_[column];
  if (quantum > 0) return static_cast<double>(n) * quantum;
  const auto bits = static_cast<std::int32_t>(n >= 0 ? n : std::int64_t{std::numeric_limits<std::int32_t>::min()} - n);
  return static_cast<double>(std::bit_cast<float>(bits));
}

void PackedRows::add(const double* row, Packer& packer) {
  const std::size_t columns = quanta_.size();
  Whole now{};
  for (std::size_t i = 0; i < columns; ++i) now[i] = std::isnan(row[i]) && quanta_[i] > 0 ? 0 : whole(row[i], i);
  if (rows_ == 0) {
    first_ = last_ = now;
    step_ = {};
    still_ = rows_ = 1;
    bytes_ = sizeof *this;
    return;
  }
  ++rows_;
  if (chunks_.empty() && open_rows_ == 0 && now == first_) {
    ++still_;
    return;
  }
  if (open_rows_ == 0) {
    // A chunk begins with what it goes on from, so that it is read by itself.
    for (std::size_t i = 0; i < columns; ++i) put_number(open_, last_[i]), put_number(open_, step_[i]);
  }
  // Room for the longest row there can be, and back to what it took.
  const std::size_t mask_at = open_.size();
  open_.resize(mask_at + 2 + most_number_bytes * columns);
  std::uint8_t* const row_begin = open_.data() + mask_at;
  std::uint8_t* to = row_begin + 2;
  std::uint32_t mask = 0;
  for (std::size_t i = 0; i < columns; ++i) {
    const std::int64_t step = minus(now[i], last_[i]);
    const std::int64_t turn = minus(step, step_[i]);
    if (turn != 0) {
      mask |= 1U << i;
      to = put_number_at(to, turn);
    }
    step_[i] = step;
  }
  row_begin[0] = static_cast<std::uint8_t>(mask & 0xFF);
  row_begin[1] = static_cast<std::uint8_t>(mask >> 8);
  open_.resize(mask_at + static_cast<std::size_t>(to - row_begin));
  last_ = now;
  ++open_rows_;
  const int most = chunks_.empty() ? first_chunk_ : rows_a_chunk;
  if (open_rows_ >= most) close(packer);
}

void PackedRows::close(Packer& packer) {
  chunks_.push_back({packer.packed(open_), static_cast<std::uint32_t>(open_.size())});
  bytes_ += chunks_.back().packed.capacity() + sizeof(Chunk);
  open_.clear();
  open_rows_ = 0;
}

PackedRows::Place PackedRows::place(std::int64_t row) const {
  if (row < still_) return {-1, 0, still_};
  const std::int64_t within = row - still_;
  std::int64_t chunk = 0, first = still_, count = first_chunk_;
  if (within >= first_chunk_) {
    chunk = 1 + (within - first_chunk_) / rows_a_chunk;
    first = still_ + first_chunk_ + (chunk - 1) * rows_a_chunk;
    count = rows_a_chunk;
  }
  return {chunk, first, std::min(count, rows_ - first)};
}

void PackedRows::unpack(const Place& place, Packer& packer, std::vector<double>& rows) const {
  const std::size_t columns = quanta_.size();
  if (place.chunk < 0) {
    rows.resize(columns);
    for (std::size_t i = 0; i < columns; ++i) rows[i] = number(first_[i], i);
    return;
  }
  std::vector<std::uint8_t> raw;
  std::span<const std::uint8_t> from(open_);
  if (const auto at = static_cast<std::size_t>(place.chunk); at < chunks_.size()) {
    raw.resize(chunks_[at].raw);
    packer.unpack(chunks_[at].packed, raw);
    from = raw;
  }
  Whole last{}, step{};
  for (std::size_t i = 0; i < columns; ++i) last[i] = take_number_off(from), step[i] = take_number_off(from);
  rows.resize(static_cast<std::size_t>(place.count) * columns);
  for (std::size_t row = 0; row < static_cast<std::size_t>(place.count); ++row) {
    if (from.size() < 2) rows_broken();
    const std::uint32_t mask = from[0] | static_cast<std::uint32_t>(from[1]) << 8;
    from = from.subspan(2);
    for (std::size_t i = 0; i < columns; ++i) {
      if ((mask >> i & 1) != 0) step[i] = plus(step[i], take_number_off(from));
      last[i] = plus(last[i], step[i]);
      rows[row * columns + i] = number(last[i], i);
    }
  }
}

void PackedRows::write(std::vector<std::uint8_t>& to) const {
  for (const std::int64_t n : {rows_, still_, std::int64_t{first_chunk_}, static_cast<std::int64_t>(open_rows_)})
    put_number(to, n);
  for (std::size_t i = 0; i < quanta_.size(); ++i)
    for (const std::int64_t n : {first_[i], last_[i], step_[i]}) put_number(to, n);
  put_number(to, static_cast<std::int64_t>(chunks_.size()));
  for (const Chunk& chunk : chunks_) {
    put_number(to, chunk.raw);
    put_text(to, chunk.packed);
  }
  put_text(to, std::string(open_.begin(), open_.end()));
}

PackedRows PackedRows::read(std::span<const std::uint8_t>& from, std::span<const double> quanta) {
  PackedRows read(quanta);
  read.rows_ = take_number_off(from);
  read.still_ = take_number_off(from);
  const std::int64_t first_chunk = take_number_off(from), open_rows = take_number_off(from);
  constexpr std::int64_t most_rows = std::int64_t{1} << 40;
  const bool good = read.rows_ >= 0 && read.rows_ <= most_rows && read.still_ >= 0 && read.still_ <= read.rows_ &&
                    first_chunk >= 1 && first_chunk <= rows_a_chunk && open_rows >= 0 && open_rows < rows_a_chunk;
  if (!good) rows_broken();
  read.first_chunk_ = static_cast<int>(first_chunk);
  read.open_rows_ = static_cast<int>(open_rows);
  for (std::size_t i = 0; i < quanta.size(); ++i)
    for (std::int64_t* n : {&read.first_[i], &read.last_[i], &read.step_[i]}) *n = take_number_off(from);
  const std::int64_t chunks = take_number_off(from);
  if (chunks < 0 || static_cast<std::uint64_t>(chunks) > from.size()) rows_broken();  // each takes some bytes
  std::int64_t whole_rows = read.still_ + open_rows;
  if (chunks > 0) whole_rows += first_chunk + (chunks - 1) * rows_a_chunk;
  if (whole_rows != read.rows_) rows_broken();
  read.bytes_ = sizeof read;
  for (std::int64_t i = 0; i < chunks; ++i) {
    Chunk chunk;
    // A row takes no more than its mask and ten bytes a column.
    constexpr std::int64_t most_raw = (rows_a_chunk + 2) * (2 + 10 * std::int64_t{most_columns});
    const std::int64_t raw = take_number_off(from);
    if (raw < 0 || raw > most_raw) rows_broken();
    chunk.raw = static_cast<std::uint32_t>(raw);
    chunk.packed = take_text_off(from);
    read.bytes_ += chunk.packed.size() + sizeof(Chunk);
    read.chunks_.push_back(std::move(chunk));
  }
  const std::string open = take_text_off(from);
  read.open_.assign(open.begin(), open.end());
  return read;
}

}  // namespace bronvel
