// MIDI 1.0 messages, from bytes that nobody vouches for.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>

namespace tuvvo {

/// The kinds that are listened to. Everything else of the standard is recognised and passed over.
enum class MidiKind {
  NoteOff,         ///< a note on with velocity 0 is one too
  NoteOn,          ///< data: note 0 to 127, velocity 1 to 127
  KeyPressure,     ///< data: note, pressure
  Control,         ///< data: controller number, value
  Program,         ///< data: number
  ChannelPressure, ///< data: pressure
  Bend,            ///< data: 0 to 16383 in `value`, 8192 at rest
  Clock,           ///< 24 to a quarter note
  Start,
  Continue,
  Stop
};

struct MidiMessage {
  MidiKind kind = MidiKind::NoteOff;
  int channel = 0; ///< 0 to 15; 0 for the last four kinds
  int number = 0;  ///< note, controller or program; 0 where there is none
  int value = 0;   ///< velocity, pressure, value
  bool operator==(const MidiMessage&) const = default;
};

/// A message of something to be played.
struct TimedMidi {
  double atS = 0; ///< from its start
  MidiMessage message;
};

/// Turns a stream of bytes into messages: running status, real-time messages between any two bytes,
/// system exclusive and unknown messages passed over, as the MIDI 1.0 Detailed Specification (MIDI
/// Manufacturers Association, 4.2) says. Safe on any thread; no allocation or lock.
class MidiParser {
public:
  /// @returns a message where this byte completes one that is listened to
  std::optional<MidiMessage> feed(std::uint8_t byte);

private:
  [[nodiscard]] std::optional<MidiMessage> complete() const;

  std::uint8_t m_status = 0; ///< 0: none; data bytes are passed over
  std::array<std::uint8_t, 2> m_data{};
  int m_have = 0, m_need = 0;
};

/// One whole message as a driver hands it over; nothing where it is not one that is listened to or
/// is too short or too long.
[[nodiscard]] std::optional<MidiMessage> messageOf(std::span<const std::uint8_t> bytes);

/// The bytes of a message. @returns how many of the three are in use
int bytesOf(const MidiMessage& message, std::array<std::uint8_t, 3>& bytes);

} // namespace tuvvo
