// What comes in: measured, and handed from the audio thread to whoever catches it.
#pragma once

#include "base/spsc_queue.h"
#include "base/units.h"

#include <array>
#include <atomic>
#include <cstdint>
#include <vector>

namespace tuvvo {

/// Sound of the engine's rate that came in, in a ring of five seconds, with the place of the music
/// at every block. One thread writes (the audio thread), one reads.
class InputLine {
public:
  static constexpr std::size_t kRing = std::size_t(1) << 18; ///< frames: 5.4 s
  static constexpr float kFull = 0.9999f; ///< three samples in a row from here on are a clip

  /// One block that came in.
  struct Place {
    EngineFrames frame{}; ///< of its first frame, counting from when the line was made
    int frames = 0;
    EngineFrames music{}; ///< counting on over the passes of a loop
    bool playing = false;
    std::uint32_t starts = 0; ///< how often the music had been started or moved
    int probed = -1;          ///< where in the block a probe went out; −1: none did
  };

  InputLine();

  // ---- audio thread: no allocation, lock or wait ----
  /// `place.frame` is filled in here. What there is no room for is left out and counted.
  void take(const float* left, const float* right, Place place);
  /// Measures what comes in, before anything acts on it.
  void measure(const float* left, const float* right, int frames);

  // ---- the reader's thread ----
  bool nextPlace(Place& place) { return m_places.pop(place); }
  /// Copies the frames of the next block, `frames` of them as its place says, in the order of the
  /// places.
  void read(float* left, float* right, int frames);

  // ---- any thread ----
  struct Level {
    std::array<float, 2> peak{}; ///< the largest since the last call, of full scale
    std::array<float, 2> rms{};  ///< over some 300 ms
    std::uint32_t clips = 0;     ///< since the line was made
  };
  /// One caller: it begins the peaks anew.
  [[nodiscard]] Level takeLevel();
  /// Frames that nobody read in time.
  [[nodiscard]] std::uint64_t lost() const { return m_lost.load(std::memory_order_relaxed); }
  /// Frames that came in and wait to be read.
  [[nodiscard]] std::int64_t waiting() const {
    return frames() - std::int64_t(lost()) - std::int64_t(m_read.load(std::memory_order_relaxed));
  }
  /// Frames that came in so far.
  [[nodiscard]] std::int64_t frames() const {
    return m_shownFrames.load(std::memory_order_relaxed);
  }

private:
  void measureChannel(std::size_t channel, const float* samples, int frames);

  std::vector<float> m_left, m_right;
  std::uint64_t m_written = 0; ///< audio thread's; the queue of places publishes it
  std::atomic<std::uint64_t> m_read{0};
  SpscQueue<Place, 16384> m_places;
  std::int64_t m_frame = 0; ///< audio thread's
  std::array<double, 2> m_square{};
  std::array<int, 2> m_run{};
  std::atomic<std::int64_t> m_shownFrames{0};
  std::array<std::atomic<float>, 2> m_peak{}, m_rms{};
  std::atomic<std::uint32_t> m_clips{0};
  std::atomic<std::uint64_t> m_lost{0};
};

} // namespace tuvvo
