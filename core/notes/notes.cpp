#include "notes/notes.h"

#include "base/convert.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "model/resolved_source.h"
#include "notes/cut_notes.h"
#include "notes/free_space.h"
#include "notes/similarity_note.h"
#include "play/bounce.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kSpreadWorthSaying = 4.0;   // LU; common practice, no source
constexpr double kOffBarsWorthSaying = 0.06; // beats
constexpr double kTempoGivenByLength = 0.04; // a loop's tempo may move this far to make whole bars

void levelNote(const Project& project, const Source& source, LoudnessCache& loudness,
               std::vector<Note>& notes) {
  const auto keys = slicesOf(project, source.id);
  const LevelSpread spread = levelSpread(project, keys, LevelBy::Whole, loudness);
  if (spread.lu < kSpreadWorthSaying) return;
  Note note;
  note.id = "levels:" + source.hash;
  note.stage = Stage::Cut;
  note.tone = spread.lu > 10 ? Note::Tone::Trouble : Note::Tone::Taste;
  note.finding = finding::LevelsApart{source.name, spread.lu, spread.loudest, spread.quietest};
  note.fix = [id = source.id, &loudness](const Project& p) {
    return withLevelsMatched(p, slicesOf(p, id), {}, loudness);
  };
  notes.push_back(std::move(note));
}

void barsNote(const Source& source, std::vector<Note>& notes) {
  const auto grid = gridOf(source);
  if (!grid || !source.sound) return;
  const double duration = source.sound->duration().value - grid->downbeat.value;
  const double beats = duration * grid->tempo.value / 60;
  const double bars = beats / grid->meter, whole = std::round(bars);
  if (bars < 0.6 || bars > 33 || whole < 1) return;
  if (std::abs(bars - whole) * grid->meter < kOffBarsWorthSaying) return;
  Note note;
  note.id = "bars:" + source.hash;
  note.stage = Stage::Cut;
  note.tone = Note::Tone::Taste;
  const double wholeTempo = 60 * whole * grid->meter / duration;
  if (ResolvedSource(source).steady() &&
      std::abs(wholeTempo / grid->tempo.value - 1) < kTempoGivenByLength) {
    note.finding = finding::TempoOfWholeBars{source.name, bars, grid->tempo, Bpm(wholeTempo)};
    note.fix = [id = source.id, wholeTempo](const Project& p) {
      return withSourceChanged(p, id, [&](Source& s) { s.corrections.tempo = Bpm(wholeTempo); });
    };
  } else {
    const double full = std::max(1.0, std::floor(bars + 0.02));
    note.finding = finding::EndsOffBars{source.name, bars, toWhole<int>(full)};
    note.fix = [id = source.id, full](const Project& p) {
      const Source* s = findSource(p, id);
      if (!s) return p;
      CutSettings byBeats = s->cutting;
      byBeats.mode = CutMode::Beats;
      byBeats.perBeat = 1;
      auto cuts = cutSource(*s, byBeats);
      const auto g = gridOf(*s);
      const Hertz rate = s->sound->rate();
      const double endS = g->downbeat.value + full * g->meter * 60 / g->tempo.value;
      std::erase_if(cuts, [&](const Cut& cut) {
        const double at = toSeconds(cut.start, rate).value;
        return at < g->downbeat.value - 0.01 || at > endS - 0.02;
      });
      if (!cuts.empty()) cuts.back().end = std::min(cuts.back().end, toFrames(Seconds(endS), rate));
      return withCuts(p, id, byBeats, std::move(cuts));
    };
  }
  notes.push_back(std::move(note));
}

void rightsNote(const Project& project, const Source& source, std::vector<Note>& notes) {
  const bool recording = source.provenance.recording == Permission::Unrecorded,
             composition = source.provenance.composition == Permission::Unrecorded;
  if (!recording && !composition) return;
  const Seconds heard = heardInSong(project, source.id);
  Note note;
  note.id = "rights:" + source.hash;
  note.stage = Stage::Print;
  note.tone = heard.value > 0 ? Note::Tone::Trouble : Note::Tone::Taste;
  note.finding = finding::NoPermission{source.name, recording, composition, heard};
  note.fix = [id = source.id](const Project& p) {
    return withSourceChanged(p, id, [](Source& s) {
      for (Permission* permission : {&s.provenance.recording, &s.provenance.composition})
        if (*permission == Permission::Unrecorded) *permission = Permission::Asked;
    });
  };
  notes.push_back(std::move(note));
}

} // namespace

Seconds heardInSong(const Project& project, Id id) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return Seconds(0);
  const Score score = compileSong(project);
  // How much of the source is in a second of what each patch plays.
  std::vector<std::pair<double, Hertz>> shares;
  for (const auto& key : project.keys) {
    const auto add = [&](Id played) {
      const Source* from = findSource(project, played);
      double share = played == id ? 1 : 0;
      if (share == 0)
        for (const Origin& origin : originsOf(project, played))
          if (origin.source == id) share += origin.share;
      shares.emplace_back(share, from && from->sound ? from->sound->rate() : kEngineRate);
    };
    add(key.sound.source);
    for (const auto& layer : key.layers) add(layer.sound.source);
  }
  double total = 0;
  for (std::size_t i = 0; i < score.events.size(); ++i) {
    const auto& event = score.events[i];
    const Patch& first = score.patches[std::size_t(event.patch)];
    double most = double((score.length - event.frame).value);
    if (first.gate && event.hold.value > 0) most = std::min(most, double(event.hold.value));
    for (std::size_t j = i + 1; j < score.events.size(); ++j) {
      const auto& later = score.events[j];
      const auto apart = double((later.frame - event.frame).value);
      if (apart >= most) break;
      const Patch& next = score.patches[std::size_t(later.patch)];
      if ((first.choke != 0 && next.choke == first.choke) ||
          (first.mono && later.patch == event.patch)) {
        most = apart;
        break;
      }
    }
    std::array<int, kMostLayers> layers{};
    const int count = layersOf(score, event, event.turn, layers);
    for (int k = 0; k < count; ++k) {
      const auto at = std::size_t(layers[std::size_t(k)]);
      const Patch& patch = score.patches[at];
      if (!patch.sound || patch.silent) continue;
      const double step = patch.step * event.tune;
      const double frames = std::min(most, double((patch.end - patch.start).value) / step);
      total += shares[at].first * frames * step / shares[at].second.value;
    }
  }
  return Seconds(total);
}

std::vector<Note> notesOf(const Project& project, LoudnessCache& loudness) {
  std::vector<Note> notes;
  for (const auto& source : project.sources) {
    if (source->kit) continue;
    levelNote(project, *source, loudness, notes);
    barsNote(*source, notes);
    addCutNotes(project, *source, notes);
    if (!source->recipe) rightsNote(project, *source, notes); // the others have their origin's
  }
  addFreeSpaceNotes(project, notes);
  addSimilarityNotes(project, notes);
  std::erase_if(notes, [&](const Note& note) { return project.dismissedNotes.contains(note.id); });
  std::stable_sort(notes.begin(), notes.end(),
                   [](const Note& a, const Note& b) { return a.tone < b.tone; });
  return notes;
}

} // namespace tuvvo
