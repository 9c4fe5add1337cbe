#include "words/timing_words.h"

#include "words/figure_text.h"

#include <cmath>

namespace tuvvo {

namespace {

std::string away(Milliseconds offset) { return figureText("%.0f ms", std::abs(offset.value)); }

std::string evenness(const TimingPicture& picture) {
  return picture.even() ? "evenly, within " + away(picture.all.spread)
                        : "loosely, " + away(picture.all.spread) + " apart";
}

} // namespace

std::string sentenceOf(const Project& project, const TimingPicture& picture) {
  const Milliseconds trend = picture.all.trend;
  switch (picture.verdict) {
  case TimingVerdict::None:
    break;
  case TimingVerdict::TooFew:
    return "Too few hits to say how even they are.";
  case TimingVerdict::Trend:
    return (trend.value > 0 ? "The take drags: " : "The take rushes: ") + away(trend) +
           (trend.value > 0 ? " later" : " earlier") + " with every bar.";
  case TimingVerdict::PartOff: {
    const PartTiming& odd = picture.parts.at(*picture.odd);
    const Part* part = findPart(project, odd.part);
    return (part ? part->name : std::string("One part")) + " lies " + away(odd.feel.mean) +
           (odd.feel.mean.value > 0 ? " late" : " early") +
           " against its feel; all in all it was played " + evenness(picture) + ".";
  }
  case TimingVerdict::Steady:
    return "In time with the feel, and played " + evenness(picture) + ".";
  }
  return {};
}

} // namespace tuvvo
