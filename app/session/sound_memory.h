// What was chosen for sound, and how long it takes there and back, from one start to the next.
#pragma once

#include "devices/live_sound.h"

#include <filesystem>
#include <map>

namespace tuvvo {

/// Kept in `sound.json` beside the crate, by the names of devices.
class SoundMemory {
public:
  SoundMemory();

  [[nodiscard]] const SoundChoice& choice() const { return m_choice; }
  void keepChoice(const SoundChoice& choice);
  /// Frames from the engine and back, as measured with exactly this in use; nothing where it was
  /// not.
  [[nodiscard]] std::optional<std::int64_t> latency(const std::string& setup) const;
  void keepLatency(const std::string& setup, std::int64_t frames);
  /// What is in use, as a name for latencies: device, input, rate and block.
  [[nodiscard]] static std::string setupOf(const LiveSound& live);
  /// Why the file could not be read or written; once.
  [[nodiscard]] std::string takeTrouble();

private:
  void read();
  void write();

  std::filesystem::path m_file;
  SoundChoice m_choice;
  std::map<std::string, std::int64_t> m_latencies;
  std::string m_trouble;
  bool m_readable = true; ///< else what is there is not overwritten
};

} // namespace tuvvo
