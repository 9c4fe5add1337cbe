#include "session/saver.h"

namespace tuvvo {

void Saver::begin(Kind kind, const ProjectPtr& value, const std::filesystem::path& folder,
                  const SavedState& known) {
  auto run = std::make_shared<Run>();
  m_run = run;
  m_pool.run(
      [run, kind, value, folder, known, done = m_done](JobContext&) {
        run->saved = Saved{kind, value, folder,
                           kind == Kind::Save ? saveProject(*value, folder, known)
                                              : autosaveProject(*value, folder, known)};
        run->ended = true;
        done();
      },
      [run, kind, value, folder, done = m_done](const Error& error) {
        run->saved = Saved{kind, value, folder, error};
        run->ended = true;
        done();
      });
}

std::optional<Saver::Saved> Saver::take() {
  if (!m_run || !m_run->ended) return std::nullopt;
  auto saved = std::move(m_run->saved);
  m_run.reset();
  return saved;
}

} // namespace tuvvo
