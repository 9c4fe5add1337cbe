#include "session/autosaver.h"

namespace tuvvo {

void Autosaver::begin(ProjectPtr value, const std::filesystem::path& folder,
                      const SavedState& known) {
  auto run = std::make_shared<Run>();
  m_run = run;
  m_pool.run(
      [run, value = std::move(value), folder, known, done = m_done](JobContext&) {
        run->saved = Saved{value, folder, autosaveProject(*value, folder, known)};
        run->ended = true;
        done();
      },
      [run, done = m_done, trouble = folder.string()](const Error& error) {
        run->saved = Saved{nullptr, trouble, error};
        run->ended = true;
        done();
      });
}

std::optional<Autosaver::Saved> Autosaver::take() {
  if (!m_run || !m_run->ended) return std::nullopt;
  auto saved = std::move(m_run->saved);
  m_run.reset();
  return saved;
}

} // namespace tuvvo
