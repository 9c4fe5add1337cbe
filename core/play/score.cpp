#include "play/score.h"

namespace tuvvo {

Beats Score::barLineAt(EngineFrames at) const {
  // A bar line stands on a frame within half a frame of it.
  const double ticks = tempo.ticksAt(double(at.value) + 0.5, kEngineRate);
  const MeterSpan& span = spanAt(ticks);
  const std::int64_t bar = barOf(span.meter).value;
  const auto bars =
      toWhole<std::int64_t>(std::floor((ticks - double(span.start.value)) / double(bar)));
  return Beats(span.start.value + bars * bar);
}

Beats Score::barLineAfter(Beats line, int bars) const {
  for (int i = 0; i < bars; ++i) {
    const MeterSpan& span = spanAt(double(line.value));
    line += barOf(span.meter);
    const MeterSpan* after = &span + 1; // the next span begins with a bar line of its own
    if (after != meters.data() + meters.size() && after->start > span.start)
      line = std::min(line, after->start);
  }
  return line;
}

int Score::patchAt(Id key, EngineFrames at) const {
  if (tempo.steady()) return patchOf(key);
  const Bpm now = tempo.tempoAt(ticksAt(at));
  int best = -1;
  for (std::size_t i = 0; i < patches.size(); i += std::size_t(patches[i].layers)) {
    const Patch& patch = patches[i];
    if (patch.key != key || patch.reversed || patch.treated > 0) continue;
    if (best < 0 || std::abs(patch.tempo.value - now.value) <
                        std::abs(patches[std::size_t(best)].tempo.value - now.value))
      best = int(i);
  }
  return best;
}

} // namespace tuvvo
