// Autosaving in the background: the window never waits for a disc or an encoder.
#pragma once

#include "base/jobs.h"
#include "formats/bundle.h"

#include <functional>
#include <optional>

namespace tuvvo {

/// One autosave at a time, of a value; what came of it is taken on the interface's thread. All of
/// it is used there.
class Autosaver {
public:
  struct Saved {
    ProjectPtr value;
    std::filesystem::path folder;
    Result<SavedState> state;
  };
  /// @param done     called on a job's thread when there is something to take
  /// @param trouble  see JobPool
  Autosaver(std::function<void()> done, JobPool::Trouble trouble)
      : m_done(std::move(done)), m_pool(1, std::move(trouble)) {}

  [[nodiscard]] bool busy() const { return m_run != nullptr; }
  /// Begins one; not while it is busy.
  void begin(ProjectPtr value, const std::filesystem::path& folder, const SavedState& known);
  /// What came of it, once; nothing while it runs, and where a job ended before its end.
  [[nodiscard]] std::optional<Saved> take();
  /// The same when it has ended.
  [[nodiscard]] std::optional<Saved> finish() {
    m_pool.waitIdle();
    return take();
  }

private:
  struct Run {
    std::atomic<bool> ended{false};
    std::optional<Saved> saved;
  };
  std::function<void()> m_done;
  std::shared_ptr<Run> m_run;
  JobPool m_pool; ///< last: ends first
};

} // namespace tuvvo
