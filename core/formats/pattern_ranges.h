// The ranges of hits and feels in the units of files, by the parameters that describe them. Inner
// part of formats/.
#pragma once

#include "formats/file_range.h"
#include "model/pattern_parameters.h"

namespace tuvvo {

struct FeelRanges {
  json_read::FileRange swing8{findFeelParameter("feel.swing-8ths")},
      swing16{findFeelParameter("feel.swing-16ths")},
      microTiming{findFeelParameter("feel.micro-timing")},
      accentDepth{findFeelParameter("feel.accent-depth"), 100},
      humanise{findFeelParameter("feel.humanise")},
      humaniseLevel{findFeelParameter("feel.humanise-velocity"), 100},
      quantiseStrength{findFeelParameter("feel.quantise-strength"), 100},
      grooveTiming{findFeelParameter("feel.groove-timing"), 100},
      grooveLevel{findFeelParameter("feel.groove-accents"), 100};
};

struct HitRanges {
  json_read::FileRange velocity{findHitParameter("hit.velocity"), 100},
      microTiming{findHitParameter("hit.micro-timing")}, tune{findHitParameter("hit.tune")},
      start{findHitParameter("hit.start"), 100}, brightness{findHitParameter("hit.brightness")},
      pan{findHitParameter("hit.pan"), 100}, roll{findHitParameter("hit.roll")},
      rollEndsAt{findHitParameter("hit.roll-ends-at"), 100},
      rollTune{findHitParameter("hit.roll-tune")}, flam{findHitParameter("hit.flam")},
      flamLevel{findHitParameter("hit.flam-level"), 100},
      chance{findHitParameter("hit.chance"), 100}, every{findHitParameter("hit.every")},
      glide{findHitParameter("hit.glide")}, glideFrom{findHitParameter("hit.glide-from")};
};

/// Looked up once: there may be a million hits.
inline const FeelRanges& feelRanges() {
  static const FeelRanges ranges;
  return ranges;
}
inline const HitRanges& hitRanges() {
  static const HitRanges ranges;
  return ranges;
}

} // namespace tuvvo
