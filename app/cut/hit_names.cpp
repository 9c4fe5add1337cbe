// What the hits under the waveform are called, and calling them something else.
#include "cut/wave_view.h"
#include "model/edits.h"
#include "model/resolved_source.h"
#include "theme/theme.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <cmath>

namespace tuvvo {

using theme::px;

/// The hit nearest to a place in time, if there is one within a little.
std::optional<Onset> WaveView::hitNear(Seconds at, double withinS) const {
  const Source* s = source();
  std::optional<Onset> best;
  if (!s) return best;
  const ResolvedSource resolved(*s);
  for (const auto& onset : resolved.onsets())
    if (const double apart = std::abs(onset.at.value - at.value); apart < withinS) {
      withinS = apart;
      best = onset;
    }
  return best;
}

void WaveView::nameHit(const Onset& onset, QPoint where) {
  const Source* s = source();
  if (!s) return;
  const auto alike = std::count_if(s->heard->onsets.begin(), s->heard->onsets.end(),
                                   [&](const Onset& o) { return o.group == onset.group; });
  const std::pair<HitClass, QString> names[] = {{HitClass::Kick, tr("kick")},
                                                {HitClass::Snare, tr("snare")},
                                                {HitClass::Hat, tr("hat")},
                                                {HitClass::Other, tr("something else")}};
  QMenu menu(this);
  for (bool all : {true, false}) {
    if (all && alike < 2) continue;
    for (const auto& [hit, name] : names) {
      const QString text =
          all ? tr("All %1 like it: %2").arg(alike).arg(name) : tr("Only this one: %1").arg(name);
      menu.addAction(text, this, [this, id = s->id, at = onset.at, hit = hit, all, name = name] {
        edit(tr("A hit is a %1").arg(name),
             withHitsChanged(project(), id, at, all,
                             [hit](std::vector<HitClass>& hits) { hits = {hit}; }));
      });
    }
    menu.addSeparator();
  }
  menu.exec(where);
}

void WaveView::contextMenuEvent(QContextMenuEvent* event) {
  const Source* s = source();
  if (!s || !s->sound) return;
  const double rate = s->sound->rate().value;
  const double reach = (frameAt(px(12)) - frameAt(0)) / rate;
  if (const auto onset = hitNear(Seconds(frameAt(event->x() - px(6)) / rate), reach))
    nameHit(*onset, event->globalPos());
}

void WaveView::nameChosenHit() {
  const Source* s = source();
  const Cut* cut = s ? findCut(*s, selection().cut) : nullptr;
  if (!cut || !s->sound) return;
  const Seconds at = toSeconds(cut->start, s->sound->rate());
  if (const auto onset = hitNear(at, 0.05))
    nameHit(*onset, mapToGlobal(QPoint(int(xOf(double(cut->start.value))), int(marks().bottom()))));
}

} // namespace tuvvo
