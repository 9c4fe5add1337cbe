#include "words/note_words.h"

#include "listen/analysis.h"
#include "words/figure_text.h"

#include <cmath>

namespace tuvvo {

namespace {

std::string counted(std::size_t n, const char* one, const char* many) {
  return std::to_string(n) + " " + (n == 1 ? one : many);
}

NoteWords saying(const finding::LevelsApart& found) {
  if (found.job != SliceJob::Tones) {
    const std::string drum = found.job == SliceJob::Kick    ? "kick"
                             : found.job == SliceJob::Snare ? "snare"
                                                            : "hat";
    return {figureText("+%.1f LU", found.lu),
            "In " + found.source + ", the " + drum + " of " + found.loudest +
                " stands out over the usual one, " + found.quietest +
                ". Softer ones are left alone: that is the playing.",
            "Bring it down"};
  }
  return {figureText("%.1f LU apart", found.lu),
          "In " + found.source + ", cut " + found.loudest + " is the loudest and cut " +
              found.quietest + " the quietest. Keep it if that is the playing.",
          "Match levels"};
}

NoteWords saying(const finding::TempoOfWholeBars& found) {
  return {figureText("%.2f bars", found.bars),
          found.source + figureText(" is not a whole number of bars at %.2f BPM; at %.2f it is.",
                                    found.tempo.value, found.wholeTempo.value),
          figureText("Hear it at %.2f BPM", found.wholeTempo.value)};
}

NoteWords saying(const finding::EndsOffBars& found) {
  return {figureText("%.2f bars", found.bars),
          found.source + " does not end on a bar line, so it will not go round by itself.",
          "Cut " + counted(std::size_t(found.wholeBars), "whole bar", "whole bars")};
}

NoteWords saying(const finding::CutsInAttacks& found) {
  return {counted(found.cuts, "cut in an attack", "cuts in attacks"),
          "In " + found.source +
              ", they begin up to 25 ms after a hit does: its snap stays behind on the slice "
              "before.",
          "Cut before the attack"};
}

NoteWords saying(const finding::EdgesClick& found) {
  return {counted(found.slices, "edge clicks", "edges click"),
          "In " + found.source + ", slices begin or end in the middle of a wave with no fade.",
          "Fade the edges"};
}

NoteWords saying(const finding::DeadAir& found) {
  return {figureText("%.0f ms of dead air", found.longest.value),
          "In " + found.source + ", " + counted(found.slices, "slice waits", "slices wait") +
              " before anything is heard, so that it plays late.",
          "Start at the sound"};
}

NoteWords saying(const finding::HeardStretch& found) {
  const bool repitch = found.instead == FitMethod::Repitch;
  return {figureText("%+.0f %% of length", found.percent),
          found.source +
              " is stretched so far that it is heard: " + (repitch ? "repitching" : "re-spacing") +
              " would leave its attacks alone. Some like the sound of it.",
          repitch ? "Repitch it" : "Re-space it"};
}

NoteWords saying(const finding::HeardWobble& found) {
  return {figureText("%+.0f %% of length", found.percent),
          "Between two places of " + found.source +
              " the speed changes so much that it is heard as a wobble.",
          "Half as straight, nothing held"};
}

NoteWords saying(const finding::OldOrder& found) {
  return {figureText("%.2f new", found.novelty),
          "In " + found.pattern + ", slices of " + found.source +
              " come nearly in their own order and rhythm. Some want just that; another order "
              "makes it yours.",
          "Reorder the slices"};
}

NoteWords saying(const finding::KickRubs& found) {
  return {figureText("%.1f semitones apart", found.apart),
          "In " + found.pattern + ", " + found.kick + " and " + found.bass + " sound together" +
              figureText(" for %.0f %% of the kick's ring and rub at ", found.overlap * 100) +
              withMinusSigns(noteNameOf(found.kickPitch)) + " against " + found.bassNote + ".",
          "Tune the kick"};
}

NoteWords saying(const finding::LowsTogether& found) {
  return {figureText("%.0f %% together", found.overlap * 100),
          "In " + found.pattern + ", " + found.kick + " and " + found.bass +
              " share the low end while the kick rings. Heavy on purpose is fine; for room, let "
              "the bass step back.",
          "Duck the bass"};
}

NoteWords saying(const finding::KickRingsOn& found) {
  return {figureText("rings %.1f beats", found.ringBeats),
          found.kick +
              figureText(" still rings when it comes again after %.2f beats.", found.freeBeats),
          "Shorten the kick"};
}

NoteWords saying(const finding::LayersCancelLows& found) {
  const bool one = found.first == found.second; // a sound laid over itself
  return {figureText("%.1f dB of its lows gone", found.lost),
          "In " + found.key + ", " +
              (one ? found.first + " and its copy" : found.first + " and " + found.second) +
              " work against each other below 250 Hz. " +
              (found.polarity ? "With one of them inverted they add up."
                              : "A little later one of them adds up with the other."),
          found.polarity ? "Invert " + found.second
                         : "Delay " + found.later + figureText(" by %.1f ms", found.by.value)};
}

NoteWords saying(const finding::BarsTheSame& found) {
  return {std::to_string(found.bars) + " bars the same",
          found.section + " plays " + found.pattern +
              " without one bar that differs. If it is to carry a voice, that may be right; else "
              "one changed bar in four or eight is what makes people listen.",
          "Change its last bar"};
}

NoteWords saying(const finding::NoPermission& found) {
  const std::string missing = found.recording && found.composition ? "no permission is recorded"
                              : found.recording ? "no permission for the recording is recorded"
                                                : "no permission for the composition is recorded";
  return {figureText("%.1f s unrecorded", found.heard.value),
          found.source + " is heard in the song and " + missing +
              ". There is no safe number of seconds; ask, and ask someone who knows your law.",
          "Open its record"};
}

} // namespace

NoteWords wordsOf(const Finding& finding) {
  return std::visit([](const auto& found) { return saying(found); }, finding);
}

} // namespace tuvvo
