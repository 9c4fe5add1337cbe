// Takes what comes in off the audio thread's hands, and makes takes of it.
#pragma once

#include "catch/hit_catcher.h"
#include "catch/take_file.h"
#include "play/input_line.h"

#include <condition_variable>
#include <mutex>
#include <thread>
#include <variant>

namespace tuvvo {

/// So many frames from a place of the music on, as it was heard.
struct BarsRequest {
  EngineFrames from{};      ///< in the music, counting on over the passes
  std::int64_t frames = 0;  ///< how many; at most an hour
  std::int64_t latency = 0; ///< frames between the engine and its coming in again
};
struct HitsRequest {
  HitSettings settings;
};
struct LongRequest {
  std::filesystem::path folder;
  TakeAbout about;
};
/// The probe is about to be sent.
struct ProbeRequest {};
using CatchRequest =
    std::variant<std::monostate, BarsRequest, HitsRequest, LongRequest, ProbeRequest>;

/// What a catcher tells, on its own thread.
struct BarsCaught {
  Channels channels;  ///< two
  bool whole = false; ///< as long as asked for; else the music ended or jumped before
};
struct HitCaught {
  CaughtHit hit;
};
struct LongCaught {
  std::filesystem::path path; ///< empty: it could not be begun
  std::int64_t frames = 0;
  std::optional<Error> trouble;
};
struct LatencyFound {
  std::optional<std::int64_t> frames; ///< from the engine's output to its input; nothing: not found
  double correlation = 0;             ///< of what came back, 0 to 1
  Decibels gain{0};                   ///< of what came back
};
struct SoundLost {
  std::uint64_t frames = 0; ///< that this computer was too busy to take
};
using CatchEvent = std::variant<BarsCaught, HitCaught, LongCaught, LatencyFound, SoundLost>;

/// One thread that reads an InputLine as long as it lives; orders may come at any time, one at a
/// time: another ends the one before.
class Catcher {
public:
  using Tell = std::function<void(CatchEvent)>;
  /// @param line  must outlive it; nobody else may read it
  Catcher(InputLine& line, Tell tell);
  ~Catcher();
  Catcher(const Catcher&) = delete;
  Catcher& operator=(const Catcher&) = delete;

  /// Ends what is caught now and begins another; std::monostate only ends it. What had been taken
  /// is told first.
  void order(CatchRequest order);
  /// Waits until everything that was ordered before is done and told.
  void finish();

  struct Now {
    std::int64_t frames = 0; ///< taken for the order so far
    int hits = 0;
    bool taking = false; ///< a hit is sounding, or the place of the bars has come
    Decibels floor{-INFINITY};
  };
  [[nodiscard]] Now now() const;

private:
  struct Bars;
  struct Probe;
  void run();
  void drain();
  void take(const InputLine::Place& place, const float* left, const float* right);
  void takeBars(const InputLine::Place& place, const float* left, const float* right);
  void takeProbe(const InputLine::Place& place, const float* left);
  void attempt(const std::function<void()>& work);
  void begin(CatchRequest order);
  void end();

  InputLine& m_line;
  Tell m_tell;
  std::mutex m_mutex;
  std::condition_variable m_wake, m_idle;
  std::deque<CatchRequest> m_requests;
  bool m_ending = false, m_busy = false;
  // The catcher's thread's own.
  CatchRequest m_order;
  std::unique_ptr<Bars> m_bars;
  std::unique_ptr<HitCatcher> m_hits;
  std::unique_ptr<TakeFile> m_take;
  std::unique_ptr<Probe> m_probe;
  std::vector<float> m_left, m_right;
  std::uint64_t m_lost = 0;
  std::atomic<std::int64_t> m_frames{0};
  std::atomic<int> m_hitCount{0};
  std::atomic<bool> m_taking{false};
  std::atomic<double> m_floor{-INFINITY};
  std::thread m_thread;
};

} // namespace tuvvo
