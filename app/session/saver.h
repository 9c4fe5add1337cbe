// Saving and autosaving in the background: the window never waits for a disc or an encoder.
#pragma once

#include "base/jobs.h"
#include "formats/bundle.h"

#include <functional>
#include <optional>

namespace tuvvo {

/// One save at a time, of a value; what came of it is taken on the interface's thread. All of it is
/// used there.
class Saver {
public:
  enum class Kind { Save, Autosave };
  struct Saved {
    Kind kind;
    ProjectPtr value;
    std::filesystem::path folder;
    Result<SavedState> state;
  };
  /// @param done     called on a job's thread when there is something to take
  explicit Saver(std::function<void()> done) : m_done(std::move(done)), m_pool(1) {}

  [[nodiscard]] bool busy() const { return m_run != nullptr; }
  /// Begins one; not while it is busy.
  void begin(Kind kind, const ProjectPtr& value, const std::filesystem::path& folder,
             const SavedState& known);
  /// What came of it, once; nothing while it runs.
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
