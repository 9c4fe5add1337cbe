#include "midi/message.h"

namespace tuvvo {

namespace {

/// Data bytes that follow a status byte; −1 for until the end of exclusive.
int dataOf(std::uint8_t status) {
  switch (status & 0xf0) {
  case 0xc0:
  case 0xd0:
    return 1;
  case 0xf0:
    break;
  default:
    return 2;
  }
  switch (status) {
  case 0xf0:
    return -1;
  case 0xf1: // time code quarter frame
  case 0xf3: // song select
    return 1;
  case 0xf2: // song position
    return 2;
  default: // tune request, end of exclusive, undefined
    return 0;
  }
}

std::optional<MidiMessage> realTime(std::uint8_t byte) {
  switch (byte) {
  case 0xf8:
    return MidiMessage{MidiKind::Clock};
  case 0xfa:
    return MidiMessage{MidiKind::Start};
  case 0xfb:
    return MidiMessage{MidiKind::Continue};
  case 0xfc:
    return MidiMessage{MidiKind::Stop};
  default: // active sensing, reset, undefined
    return std::nullopt;
  }
}

} // namespace

std::optional<MidiMessage> MidiParser::complete() const {
  const int channel = m_status & 0x0f, first = m_data[0], second = m_data[1];
  switch (m_status & 0xf0) {
  case 0x80:
    return MidiMessage{MidiKind::NoteOff, channel, first, second};
  case 0x90:
    return MidiMessage{second == 0 ? MidiKind::NoteOff : MidiKind::NoteOn, channel, first, second};
  case 0xa0:
    return MidiMessage{MidiKind::KeyPressure, channel, first, second};
  case 0xb0:
    return MidiMessage{MidiKind::Control, channel, first, second};
  case 0xc0:
    return MidiMessage{MidiKind::Program, channel, first, 0};
  case 0xd0:
    return MidiMessage{MidiKind::ChannelPressure, channel, 0, first};
  case 0xe0:
    return MidiMessage{MidiKind::Bend, channel, 0, first | second << 7};
  default:
    return std::nullopt;
  }
}

std::optional<MidiMessage> MidiParser::feed(std::uint8_t byte) {
  if (byte >= 0xf8) return realTime(byte); // anywhere, and nothing else is disturbed
  if (byte & 0x80) {
    m_need = dataOf(byte);
    m_have = 0;
    m_status = m_need == 0 ? 0 : byte; // what has no data leaves no status behind
    return std::nullopt;
  }
  if (m_status == 0 || m_need < 0) return std::nullopt;
  m_data[std::size_t(m_have++)] = byte;
  if (m_have < m_need) return std::nullopt;
  m_have = 0;
  const auto message = complete();
  if (m_status >= 0xf0) m_status = 0; // system messages do not run
  return message;
}

std::optional<MidiMessage> messageOf(std::span<const std::uint8_t> bytes) {
  if (bytes.empty() || bytes.size() > 3 || !(bytes[0] & 0x80)) return std::nullopt;
  if (bytes[0] >= 0xf8) return bytes.size() == 1 ? realTime(bytes[0]) : std::nullopt;
  if (int(bytes.size()) != dataOf(bytes[0]) + 1) return std::nullopt;
  MidiParser parser;
  std::optional<MidiMessage> message;
  for (std::size_t i = 0; i < bytes.size(); ++i) {
    if (i > 0 && bytes[i] & 0x80) return std::nullopt;
    message = parser.feed(bytes[i]);
  }
  return message;
}

int bytesOf(const MidiMessage& m, std::array<std::uint8_t, 3>& bytes) {
  const auto low = [](int v) { return std::uint8_t(v & 0x7f); };
  const auto voice = [&](int status, int first, int second) {
    bytes = {std::uint8_t(status | (m.channel & 0x0f)), low(first), low(second)};
    return 3;
  };
  const auto single = [&](std::uint8_t byte) {
    bytes = {byte, 0, 0};
    return 1;
  };
  switch (m.kind) {
  case MidiKind::NoteOff:
    return voice(0x80, m.number, m.value);
  case MidiKind::NoteOn:
    return voice(0x90, m.number, m.value);
  case MidiKind::KeyPressure:
    return voice(0xa0, m.number, m.value);
  case MidiKind::Control:
    return voice(0xb0, m.number, m.value);
  case MidiKind::Program:
    return voice(0xc0, m.number, 0) - 1;
  case MidiKind::ChannelPressure:
    return voice(0xd0, m.value, 0) - 1;
  case MidiKind::Bend:
    return voice(0xe0, m.value, m.value >> 7);
  case MidiKind::Clock:
    return single(0xf8);
  case MidiKind::Start:
    return single(0xfa);
  case MidiKind::Continue:
    return single(0xfb);
  case MidiKind::Stop:
    break;
  }
  return single(0xfc);
}

} // namespace tuvvo
