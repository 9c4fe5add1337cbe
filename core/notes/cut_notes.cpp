#include "notes/cut_notes.h"

#include "base/convert.h"
#include "beat/novelty.h"
#include "beat/slices_in_order.h"
#include "cut/fit.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "shape/shaped.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

// Common practice, no source, each of them.
constexpr double kInAttackS = 0.025;       // a start so soon after an attack has cut through it
constexpr double kClearOfAttackS = 0.0015; // nearer than this it is still before it
constexpr double kSnapS = 0.012;
constexpr double kHitS = 0.1;
constexpr float kSnap = 2; // it rises by so much within that time, and to so much of all: 6 dB
constexpr double kDeadAirS = 0.030;          // that a player feels as lateness
constexpr double kDeadAirDb = -50;           // under the slice's own peak
constexpr double kJumpS = 0.01;              // after dead air it jumps; what swells begins softly
constexpr float kJump = 0.1f;                // of the slice's peak, −20 dB
constexpr float kClick = 0.02f;              // a step from silence that ticks, −34 dBFS
constexpr double kHeardStretch[] = {12, 25}; // per cent: of tones, of hits
constexpr double kHeardLocal = 8;            // per cent, between two held places

Note noteOf(const Source& source, const char* about) {
  Note note;
  note.id = std::string(about) + ":" + source.hash;
  note.stage = Stage::Cut;
  return note;
}

/// Changes some cuts of a source, each by the frame its start goes to.
std::function<Project(const Project&)> startsMoved(Id source, std::map<Id, Frames> starts) {
  return [source, starts = std::move(starts)](const Project& p) {
    const Source* s = findSource(p, source);
    if (!s) return p;
    Source moved = *s;
    for (const auto& [cut, start] : starts) moved.cuts = withCutStartMoved(moved, cut, start);
    return withCuts(p, source, s->cutting, moved.cuts);
  };
}

/// The largest sample of all channels between two times.
float peakBetween(const Sound& sound, double fromS, double toS) {
  const Frames from(std::max<std::int64_t>(0, toFrames(Seconds(fromS), sound.rate()).value)),
      to(std::min(sound.frames().value, toFrames(Seconds(toS), sound.rate()).value));
  return to > from ? peakOf(sound, from, to) : 0;
}

/// A hit that is struck or plucked; what swells loses nothing by a later start.
bool snaps(const Sound& sound, const Onset& onset) {
  const double at = onset.at.value, from = at - 0.003;
  const float first = peakBetween(sound, from, at + kSnapS);
  return first >= kSnap * peakBetween(sound, from - kSnapS, from) &&
         first * kSnap >= peakBetween(sound, at, at + kHitS);
}

void attackNote(const Source& source, std::vector<Note>& notes) {
  if (!source.heard) return;
  std::map<Id, Frames> better;
  const Hertz rate = source.sound->rate();
  const auto& onsets = source.heard->onsets;
  for (const auto& cut : source.cuts) {
    const double at = toSeconds(cut.start, rate).value;
    for (auto onset =
             std::lower_bound(onsets.begin(), onsets.end(), at - kInAttackS,
                              [](const Onset&o, double from) { return o.at.value < from; });
         onset != onsets.end() && onset->at.value < at; ++onset)
      if (at - onset->at.value > kClearOfAttackS && snaps(*source.sound, *onset))
        better[cut.id] = toFrames(onset->cut, rate);
  }
  if (better.empty()) return;
  Note note = noteOf(source, "attacks");
  note.tone = Note::Tone::Trouble;
  note.finding = finding::CutsInAttacks{source.name, better.size()};
  note.fix = startsMoved(source.id, std::move(better));
  notes.push_back(std::move(note));
}

void clickNote(const Source& source, std::vector<Note>& notes) {
  const Sound& sound = *source.sound;
  const auto loudAt = [&](std::int64_t frame) {
    float most = 0;
    for (int c = 0; c < sound.channels(); ++c)
      if (frame >= 0 && frame < sound.frames().value)
        most = std::max(most, std::abs(sound.channel(c)[std::size_t(frame)]));
    return most > kClick;
  };
  std::size_t clicks = 0;
  for (const auto& cut : source.cuts)
    if ((cut.fadeIn.value < 0.25 && loudAt(cut.start.value)) ||
        (cut.fadeOut.value < 0.5 && loudAt(cut.end.value - 1)))
      ++clicks;
  if (clicks == 0) return;
  Note note = noteOf(source, "clicks");
  note.tone = Note::Tone::Trouble;
  note.finding = finding::EdgesClick{source.name, clicks};
  note.fix = [id = source.id](const Project& p) {
    return withSourceChanged(p, id, [](Source& s) {
      for (auto& cut : s.cuts) {
        cut.fadeIn = std::max(cut.fadeIn, Milliseconds(1));
        cut.fadeOut = std::max(cut.fadeOut, Milliseconds(4));
      }
    });
  };
  notes.push_back(std::move(note));
}

void deadAirNote(const Source& source, std::vector<Note>& notes) {
  const Sound& sound = *source.sound;
  const double rate = sound.rate().value;
  std::map<Id, Frames> better;
  double longest = 0;
  for (const auto& cut : source.cuts) {
    const float least = peakOf(sound, cut.start, cut.end) * float(std::pow(10, kDeadAirDb / 20));
    if (least <= 0) continue;
    std::int64_t at = cut.start.value;
    const auto quiet = [&](std::int64_t frame) {
      for (int c = 0; c < sound.channels(); ++c)
        if (std::abs(sound.channel(c)[std::size_t(frame)]) > least) return false;
      return true;
    };
    while (at < cut.end.value && quiet(at)) ++at;
    const double air = double(at - cut.start.value) / rate;
    if (air < kDeadAirS) continue;
    const double from = double(at) / rate;
    if (peakBetween(sound, from, from + kJumpS) < kJump * peakOf(sound, cut.start, cut.end))
      continue;
    longest = std::max(longest, air);
    better[cut.id] = Frames(std::max(cut.start.value, at - toWhole<std::int64_t>(0.001 * rate)));
  }
  if (better.empty()) return;
  Note note = noteOf(source, "dead air");
  note.finding = finding::DeadAir{source.name, better.size(), Milliseconds(longest * 1000)};
  note.fix = startsMoved(source.id, std::move(better));
  notes.push_back(std::move(note));
}

void stretchNote(const Project& project, const Source& source, std::vector<Note>& notes) {
  if (source.shape.method != FitMethod::Stretch) return;
  const auto q = fitQuestion(source, project.tempo, project.key);
  const Material material = source.shape.material.value_or(materialOf(source));
  const double whole = fitRow(q, FitMethod::Stretch, Semitones(0)).stretchPercent;
  double local = 0;
  for (const auto& part : localStretches(ResolvedSource(source), project.tempo))
    if (const double percent = (part.ratio - 1) * 100; std::abs(percent) > std::abs(local))
      local = percent;
  const bool wholeHeard = std::abs(whole) > kHeardStretch[std::size_t(material)];
  if (!wholeHeard && std::abs(local) <= kHeardLocal) return;
  Note note = noteOf(source, "stretching");
  if (wholeHeard) {
    for (const auto& row : planFit(q)) {
      if (row.method == FitMethod::Stretch || std::abs(row.bpmErrorPercent) > 0.05) continue;
      note.finding = finding::HeardStretch{source.name, whole, row.method};
      note.fix = [id = source.id, row](const Project& p) {
        return withSourceChanged(p, id, [&](Source& s) {
          s.shape.method = row.method;
          s.shape.semitones = row.semitones;
          s.shape.cents = row.cents;
        });
      };
      break;
    }
  } else {
    note.finding = finding::HeardWobble{source.name, local};
    note.fix = [id = source.id](const Project& p) {
      return withSourceChanged(p, id, [](Source& s) {
        s.shape.straighten /= 2;
        s.shape.markers.clear();
      });
    };
  }
  if (note.fix) notes.push_back(std::move(note));
}

constexpr double kNearlyAsItWas = 0.15; // common practice, no source
constexpr int kEnoughSlices = 4;

void orderNote(const Project& project, const Source& source, std::vector<Note>& notes) {
  for (const auto& pattern : project.patterns) {
    if (pattern->name == inOrderName(source)) continue; // that one is meant to be
    const Novelty novelty = noveltyOf(project, *pattern, source.id);
    if (novelty.slices < kEnoughSlices || novelty.total >= kNearlyAsItWas) continue;
    Note note = noteOf(source, ("order" + std::to_string(pattern->id)).c_str());
    note.stage = Stage::Beat;
    note.finding = finding::OldOrder{source.name, pattern->name, novelty.total};
    note.fix = [pattern = pattern->id, id = source.id](const Project& p) {
      return withOrderChanged(p, pattern, id, 1);
    };
    notes.push_back(std::move(note));
    return;
  }
}

} // namespace

void addCutNotes(const Project& project, const Source& source, std::vector<Note>& notes) {
  if (!source.sound) return;
  attackNote(source, notes);
  clickNote(source, notes);
  deadAirNote(source, notes);
  stretchNote(project, source, notes);
  orderNote(project, source, notes);
}

} // namespace tuvvo
