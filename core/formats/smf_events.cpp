#include "formats/smf_events.h"

#include "base/files.h"

#include <algorithm>
#include <cstring>

namespace tuvvo {

namespace {

using Bytes = std::span<const std::uint8_t>;

/// Thrown inside this file only: lengths that do not agree.
struct Damaged {};

/// A place in bytes that never goes past their end.
class Cursor {
public:
  explicit Cursor(Bytes bytes) : m_bytes(bytes) {}
  [[nodiscard]] bool atEnd() const { return m_at == m_bytes.size(); }
  [[nodiscard]] std::uint8_t peek() const {
    if (atEnd()) throw Damaged{};
    return m_bytes[m_at];
  }
  std::uint8_t byte() {
    const std::uint8_t value = peek();
    ++m_at;
    return value;
  }
  std::uint32_t number(int bytes) { // big-endian
    std::uint32_t value = 0;
    for (int i = 0; i < bytes; ++i) value = value << 8 | byte();
    return value;
  }
  /// A variable-length quantity: seven bits a byte, at most four bytes.
  std::uint32_t quantity() {
    std::uint32_t value = 0;
    for (int i = 0; i < 4; ++i) {
      const std::uint8_t next = byte();
      value = value << 7 | (next & 0x7f);
      if (!(next & 0x80)) return value;
    }
    throw Damaged{};
  }
  Bytes take(std::size_t count) {
    if (count > m_bytes.size() - m_at) throw Damaged{};
    m_at += count;
    return m_bytes.subspan(m_at - count, count);
  }
  /// What was taken since a place that place() gave.
  [[nodiscard]] std::size_t place() const { return m_at; }
  [[nodiscard]] Bytes since(std::size_t place) const {
    return m_bytes.subspan(place, m_at - place);
  }

private:
  Bytes m_bytes;
  std::size_t m_at = 0;
};

/// How many data bytes follow a channel message's status.
int dataBytesOf(std::uint8_t status) {
  const int kind = status & 0xf0;
  return kind == 0xc0 || kind == 0xd0 ? 1 : 2;
}

class SmfReader {
public:
  explicit SmfReader(SmfEvents& out) : m_out(out) {}

  void readAll() {
    Cursor file(m_out.file);
    readHeader(file);
    // Running status can at most double every message; nothing that points here may move.
    m_out.spelt.reserve(m_out.file.size() * 3 / 2 + 3);
    while (!file.atEnd()) {
      const Bytes name = file.take(4);
      const Bytes body = file.take(file.number(4));
      // Other chunks are to be passed over ("Alien" ones, section 2).
      if (std::memcmp(name.data(), "MTrk", 4) == 0 && !m_out.cut) readTrack(Cursor(body));
    }
    std::stable_sort(m_out.events.begin(), m_out.events.end(),
                     [](const SmfEvent& a, const SmfEvent& b) { return a.quarters < b.quarters; });
  }

private:
  void readHeader(Cursor& file) {
    if (std::memcmp(file.take(4).data(), "MThd", 4) != 0) throw Damaged{};
    const std::uint32_t length = file.number(4);
    Cursor head(file.take(length));
    head.take(4); // type and number of tracks: every track is read as it comes
    const std::uint32_t division = head.number(2);
    if (division & 0x8000) { // frames of film a second, and ticks a frame
      const int frames = 256 - int(division >> 8), ticks = int(division & 0xff);
      if (ticks == 0 || frames <= 0) throw Damaged{};
      m_out.film = true;
      m_quartersATick = 2.0 / (double(frames == 29 ? 30000.0 / 1001 : frames) * ticks);
    } else {
      if (division == 0) throw Damaged{};
      m_quartersATick = 1.0 / division;
    }
  }

  void readTrack(Cursor track) {
    std::uint64_t ticks = 0;
    std::uint8_t running = 0;
    while (!track.atEnd()) {
      ticks += track.quantity();
      if (m_out.events.size() >= kMostSmfEvents) {
        m_out.cut = true;
        return;
      }
      const Bytes message = readMessage(track, running);
      if (message.empty()) continue;
      m_out.events.push_back({double(ticks) * m_quartersATick, message});
      if (message.size() >= 2 && message[0] == 0xff && message[1] == 0x2f) return; // end of track
    }
  }

  Bytes readMessage(Cursor& track, std::uint8_t& running) {
    const std::size_t from = track.place();
    const std::uint8_t first = track.peek();
    if (first >= 0x80 && first < 0xf0) {
      running = track.byte();
      for (int i = 0; i < dataBytesOf(running); ++i)
        if (track.byte() & 0x80) throw Damaged{};
      return track.since(from);
    }
    if (first < 0x80) {
      if (running == 0) throw Damaged{};
      const std::size_t at = m_out.spelt.size();
      m_out.spelt.push_back(running);
      for (int i = 0; i < dataBytesOf(running); ++i) {
        const std::uint8_t data = track.byte();
        if (data & 0x80) throw Damaged{};
        m_out.spelt.push_back(data);
      }
      return Bytes(m_out.spelt).subspan(at);
    }
    // System exclusive and meta events end running status.
    running = 0;
    track.byte();
    if (first == 0xff) {
      const std::uint8_t kind = track.byte();
      const Bytes data = track.take(track.quantity());
      const std::size_t at = m_out.spelt.size();
      m_out.spelt.push_back(0xff);
      m_out.spelt.push_back(kind);
      if (data.size() <= kLongestMeta) // longer ones are texts; nobody here reads them
        m_out.spelt.insert(m_out.spelt.end(), data.begin(), data.end());
      return Bytes(m_out.spelt).subspan(at);
    }
    if (first == 0xf0 || first == 0xf7) {
      track.take(track.quantity());
      return {};
    }
    throw Damaged{}; // no other status stands in a file
  }

  static constexpr std::size_t kLongestMeta = 16;
  SmfEvents& m_out;
  double m_quartersATick = 0;
};

} // namespace

Result<SmfEvents> readSmfFile(const std::filesystem::path& path) {
  std::error_code code;
  if (const auto size = std::filesystem::file_size(path, code); !code && size > kMostSmfBytes)
    return Error{"This MIDI file is larger than 8 MB", path.string(),
                 "Export the part that you need."};
  const auto bytes = readFile(path, kMostSmfBytes);
  if (!bytes) return bytes.error();
  return readSmfEvents({bytes->begin(), bytes->end()}, path.string());
}

Result<SmfEvents> readSmfEvents(std::vector<std::uint8_t> file, const std::string& where) {
  SmfEvents out;
  out.file = std::move(file);
  if (out.file.size() > kMostSmfBytes)
    return Error{"This MIDI file is larger than 8 MB", where, "Export the part that you need."};
  if (out.file.size() < 4 || std::memcmp(out.file.data(), "MThd", 4) != 0)
    return Error{"This is not a MIDI file", where, "Choose a file that ends in .mid."};
  try {
    SmfReader(out).readAll();
  } catch (const Damaged&) {
    return Error{"This MIDI file is damaged or cut off", where,
                 "Export it again, or choose another."};
  }
  return out;
}

} // namespace tuvvo
