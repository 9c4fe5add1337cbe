// Looks through folders and hears what is new, in the background.
#pragma once

#include "crate/crate.h"

#include <condition_variable>
#include <deque>
#include <set>
#include <thread>

namespace tuvvo {

/// Walks folders, notes every sound file in the crate at once (so that rows stand in the list in
/// the first moment), then hears what is new on all its threads, short files first.
///
/// Links are followed, each folder once. A file that is being written (changed in the last two
/// seconds, or while it was heard) is left for the next round. The threads run at low priority, so
/// that sound and window come first. All functions may be called from any thread.
class Scanner {
public:
  struct Parameters {
    int threads = 0;             ///< that hear; 0: as many as there are processors
    Milliseconds restTime{2000}; ///< a file must have been at rest so long
    int mostDepth = 64;          ///< folders in folders
  };
  struct Progress {
    bool walking = false, paused = false;
    int seen = 0;        ///< sound files met in this round
    int toHear = 0;      ///< in this round; heard and unreadable ones included
    int heard = 0;       ///< in this round
    int unreadable = 0;  ///< in this round
    int settling = 0;    ///< being written; they come in a later round
    std::string now;     ///< what is heard at the moment
    std::string trouble; ///< the crate's own, if there is any
    [[nodiscard]] bool working() const { return walking || heard + unreadable < toHear; }
  };

  explicit Scanner(Crate& crate) : Scanner(crate, Parameters{}) {}
  Scanner(Crate& crate, const Parameters& parameters);
  /// Cancels and waits.
  ~Scanner();
  Scanner(const Scanner&) = delete;
  Scanner& operator=(const Scanner&) = delete;

  /// Another round through these folders; the crate's waiting files are heard as well.
  void scan(std::vector<std::filesystem::path> folders);
  void setPaused(bool paused);
  /// Ends the round; what was heard stays, what waits is heard in a later round.
  void cancel();
  [[nodiscard]] Progress progress() const;
  /// Every folder that this round came through, those inside others too.
  [[nodiscard]] std::vector<std::filesystem::path> walked() const;
  /// Until the round is over or cancelled.
  void wait();

private:
  void walkAll();
  void walk(const std::filesystem::path& folder);
  void analyseAll();
  void analyse(const Crate::Waiting& file, JobContext& job);
  [[nodiscard]] bool stopped() const { return m_cancelled || m_ending; }
  void fail(const Error& error);

  Crate& m_crate;
  const Parameters m_parameters;
  mutable std::mutex m_mutex;
  std::condition_variable m_wake, m_done;
  std::deque<std::filesystem::path> m_folders;
  std::vector<std::filesystem::path> m_walked;
  std::deque<Crate::Waiting> m_queue;
  std::vector<std::shared_ptr<JobContext>> m_running;
  Progress m_progress;
  std::atomic<bool> m_cancelled{false}, m_ending{false};
  std::set<std::int64_t> m_inHand; ///< files that are being heard
  std::vector<std::thread> m_threads;
};

/// By its name: wav, aif, aiff, flac, ogg, opus, mp3, in any case.
[[nodiscard]] bool looksLikeSound(const std::filesystem::path& path);

} // namespace tuvvo
