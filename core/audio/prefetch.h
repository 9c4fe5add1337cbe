// Long sounds, held ready for the audio thread: what it reads next is in memory before it does.
#pragma once

#include "audio/sound.h"

#include <array>
#include <atomic>
#include <condition_variable>
#include <cstdint>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

namespace tuvvo {

/// A long sound in pieces, of which some are in memory. Made by a Prefetcher.
class PrefetchedSound {
public:
  static constexpr std::int64_t kPiece = 16'384; ///< frames: 64 kB of a channel

  explicit PrefetchedSound(SoundPtr sound);
  [[nodiscard]] const SoundPtr& sound() const { return m_sound; }

  /// Whether frames (first to last; what lies outside the sound does not count) can be read without
  /// waiting for a disc. What is true stays so for at least kGrace. Safe on the audio thread.
  [[nodiscard]] bool ready(std::int64_t first, std::int64_t last) const {
    const std::int64_t until = std::min(last, m_frames - 1) / kPiece;
    for (std::int64_t i = std::max<std::int64_t>(0, first) / kPiece; i <= until; ++i)
      if (m_ready[std::size_t(i)].load(std::memory_order_acquire) == 0) return false;
    return true;
  }

private:
  friend class Prefetcher;
  SoundPtr m_sound;
  std::int64_t m_frames;
  std::vector<std::atomic<std::uint8_t>> m_ready; ///< by piece
  std::vector<std::int64_t> m_wanted; ///< by piece: when it was, in ms; the thread's own
  std::vector<bool> m_kept;           ///< likewise
};
using PrefetchedPtr = std::shared_ptr<PrefetchedSound>;

/// Reads ahead of everything that sounds, and keeps the beginnings of what may be struck, with a
/// thread of its own that looks every 10 ms. One owner makes it and says what may be struck; one
/// audio thread says what sounds.
class Prefetcher {
public:
  static constexpr std::size_t kReaders = 98; ///< voices, and two that audition
  static constexpr double kAheadS = 2;        ///< at the speed at which it is read
  static constexpr int kGraceMs = 300; ///< that a piece stays after nobody wanted it any more

  Prefetcher();
  ~Prefetcher();
  Prefetcher(const Prefetcher&) = delete;
  Prefetcher& operator=(const Prefetcher&) = delete;

  // ---- owner's thread ----
  /// @returns null for a short sound, which is in memory anyway
  [[nodiscard]] PrefetchedPtr prefetched(const SoundPtr& sound);
  /// A place that may be struck at any time: half a second of it is kept.
  struct Head {
    PrefetchedPtr sound;
    std::int64_t frame = 0;
  };
  /// Those of now; of more than kMostHeads pieces the first ones count.
  void keepHeads(std::vector<Head> heads);

  // ---- audio thread; real time ----
  /// What a voice reads.
  struct Reader {
    std::atomic<const PrefetchedSound*> sound{nullptr}; ///< null: nothing
    std::atomic<std::int64_t> frame{0}, loopStart{0}, loopEnd{0};
    std::atomic<double> step{1}; ///< frames of the sound for one of the engine
  };
  [[nodiscard]] Reader& reader(std::size_t which) { return m_readers[which]; }

private:
  static constexpr std::size_t kMostHeads = 1024; ///< pieces: 64 MB of a channel
  using Pieces = std::vector<std::pair<PrefetchedPtr, std::size_t>>;
  void run();
  void markWanted(std::int64_t now);
  void letGo(std::int64_t now);
  [[nodiscard]] Pieces missing(std::int64_t now) const;
  static void fetch(const Pieces& pieces);
  void touchWhatIsReady() const;

  std::array<Reader, kReaders> m_readers;
  std::mutex m_mutex;
  std::condition_variable m_wake;
  std::vector<PrefetchedPtr> m_sounds;
  std::vector<Head> m_heads;
  bool m_ends = false;
  std::thread m_thread;
};

} // namespace tuvvo
