#include "cut/tap_cuts.h"

#include "cut/slicing.h"
#include "model/edits.h"

namespace tuvvo {

TapCuts::TapCuts(Panel& panel, Auditions& auditions)
    : QObject(&panel), m_panel(panel), m_auditions(auditions) {
  m_timer.setInterval(30);
  connect(&m_timer, &QTimer::timeout, this, &TapCuts::moved);
  connect(&auditions, &Auditions::changed, this, [this] {
    if (tapping() && m_auditions.heard().hash.empty()) finish(); // it played to its end
  });
}

void TapCuts::start() {
  for (const auto& source : m_panel.project().sources)
    if (source->id == m_panel.selection().source && source->sound) {
      m_taps.clear();
      m_auditions.playAsItIs(source); // ends what was auditioned before, and says so
      m_source = source->id;
      m_timer.start();
      emit moved();
    }
}

void TapCuts::tap() {
  if (tapping() && place().value >= 0) m_taps.push_back(place());
}

void TapCuts::finish() {
  if (!tapping()) return;
  const Id id = m_source;
  m_source = 0;
  m_timer.stop();
  m_auditions.end();
  const Source* s = findSource(m_panel.project(), id);
  if (s && !m_taps.empty()) {
    // How late this person taps shows in the taps themselves, output latency and all.
    TapSettings settings;
    const auto late = lateOf(*s, m_taps);
    if (late) settings.late = *late;
    m_panel.edit(tr("Tap %1 cuts").arg(m_taps.size()),
                 withCuts(m_panel.project(), id, s->cutting, withTapCuts(*s, m_taps, settings)));
    emit m_panel.message(late ? tr("%1 taps, moved back %2 ms and onto the nearest hits.")
                                    .arg(m_taps.size())
                                    .arg(late->value, 0, 'f', 0)
                              : tr("%1 taps, moved back by the usual %2 ms.")
                                    .arg(m_taps.size())
                                    .arg(settings.late.value, 0, 'f', 0),
                         false);
  }
  emit moved();
}

} // namespace tuvvo
