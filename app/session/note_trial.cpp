#include "session/note_trial.h"

#include "listen/levels.h"
#include "model/edits.h"
#include "play/print.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr int kMostBars = 8;      // that are measured
constexpr double kMostMatch = 12; // dB

/// The integrated loudness of a pattern, without the limiter.
double loudnessOfPattern(Project project, Id pattern, BakeCache& bakes, JobContext& job) {
  const PatternPtr played = findPattern(project, pattern);
  if (!played) return std::nan("");
  Section section;
  section.pattern = pattern;
  section.bars = std::min(played->bars, kMostBars);
  project.sections.clear();
  const auto score = bakedSong(withSection(std::move(project), section, 0), {}, bakes, job);
  if (!score) return std::nan("");
  PrintOptions options;
  options.limiter = false;
  const auto printed = print(*score, options, job);
  return printed ? analyseLoudness(**printed).integratedLufs : std::nan("");
}

} // namespace

NoteTrial::NoteTrial(Document& document, JobService& jobs, Player& player, Transport& transport)
    : m_document(document), m_jobs(jobs), m_player(player), m_transport(transport) {
  connect(&document, &Document::changed, this, &NoteTrial::hearBefore);
}

void NoteTrial::hearAfter(const Note& note) {
  if (!note.fix) return;
  const int run = ++m_run;
  m_heard = note.id;
  emit changed();
  m_jobs.run(
      [this, run, note, value = m_document.projectPtr(),
       pattern = m_document.selection().pattern](JobContext& job) {
        Project fixed = note.fix(*value);
        BakeCache& bakes = m_player.bakeCache();
        const double before = loudnessOfPattern(*value, pattern, bakes, job),
                     after = loudnessOfPattern(fixed, pattern, bakes, job);
        const double match =
            std::isfinite(before - after) ? std::clamp(before - after, -kMostMatch, kMostMatch) : 0;
        fixed.master.level.value += match;
        m_jobs.later([this, run, match, trial = std::make_shared<const Project>(std::move(fixed))] {
          if (run != m_run) return;
          m_matchedBy = Decibels(match);
          m_player.setTrial(trial);
          if (!m_transport.playing()) m_transport.play();
          emit changed();
        });
      },
      m_jobs.trouble());
}

void NoteTrial::hearBefore() {
  ++m_run;
  if (m_heard.empty()) return;
  m_heard.clear();
  m_player.setTrial(nullptr);
  emit changed();
}

} // namespace tuvvo
