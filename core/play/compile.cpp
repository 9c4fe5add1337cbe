#include "base/tempo_map.h"
#include "beat/hits.h"
#include "play/event_writer.h"
#include "play/patch_writer.h"
#include "song/timeline.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace tuvvo {

namespace {

/// A score without patches and events.
Score scoreFrame(const Project& project, const CompileOptions& options) {
  Score score;
  score.tempo = TempoMap(project.tempo);
  score.meters = {{Beats(0), project.meter}};
  score.audition = options.audition;
  score.audition.tempo = project.tempo;
  score.monitor = options.monitor;
  // For a stem the other parts play on unheard: they still choke what they choke.
  score.graph = graphPlanOf(project, kEngineRate, {options.onlyPart});
  return score;
}

/// What of a loop lies before an end; nothing where that is less than a beat.
std::optional<LoopSpan> inside(const std::optional<LoopSpan>& loop, Beats end) {
  if (!loop) return std::nullopt;
  const LoopSpan held{std::clamp(loop->from, Beats(0), end), std::min(loop->until, end)};
  if (held.until - held.from < wholeBeats(1)) return std::nullopt;
  return held;
}

} // namespace

Monitor monitorThrough(const Project& project, Id id) {
  Monitor out;
  out.on = true;
  const Key* key = findKey(project, id);
  if (!key) return out;
  const Part* part = findPart(project, key->part);
  std::tie(out.left, out.right) =
      panned(gainOf(key->level + (part ? part->bus.level : Decibels(0))), key->pan);
  out.filters = filtersOf(*key);
  return out;
}

std::vector<BakeOrder> bakesOf(const Project& project) {
  std::vector<BakeOrder> out;
  std::set<std::string> names;
  CompileOptions options;
  options.baked = [&](const BakeOrder& order) {
    if (names.insert(order.name).second) out.push_back(order);
    return Baked{};
  };
  Score score = scoreFrame(project, options);
  PatchWriter patches(score, project, options);
  // At other tempi a key is baked where it is struck.
  if (!project.tempoMarks.empty()) (void)compileSong(project, options);
  return out;
}

std::optional<BakeOrder> bakeOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  return source ? BakeOrders(project).orderFor(*source, key, project.tempo) : std::nullopt;
}

Score compileSong(const Project& project, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  score.tempo = songTempo(project);
  const Timeline timeline = timelineOf(project);
  PatchWriter patches(score, project, options);
  EventWriter writer(score, patches, project);
  const auto loop = inside(options.loop, timeline.length);
  const Beats from = loop ? loop->from : Beats(0), until = loop ? loop->until : timeline.length;
  writer.beginAt(from);
  score.meters.clear();
  for (const auto& placed : timeline.sections) {
    const PatternPtr pattern = findPattern(project, placed.pattern);
    const Section* section = findSection(project, placed.section);
    if (!pattern || !section) continue;
    const Beats end = placed.start + placed.length;
    if (end > from && placed.start < until)
      writer.add(*pattern, placed.start, std::min(end, until), section->mutedParts);
    if (score.meters.empty() || score.meters.back().meter != placed.meter)
      score.meters.push_back({placed.start, placed.meter});
  }
  if (score.meters.empty()) score.meters.push_back({Beats(0), project.meter});
  score.length = score.frameAt(until);
  score.loopStart = score.frameAt(from);
  score.loops = loop.has_value();
  if (loop) writer.goRound();
  writer.finish();
  return score;
}

Score compilePattern(const Project& project, Id id, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  PatchWriter patches(score, project, options);
  score.loops = true;
  const PatternPtr pattern = findPattern(project, id);
  if (!pattern) return score;
  score.meters = {{Beats(0), pattern->meter}};
  const Beats whole = loopLength(*pattern);
  const auto loop = inside(options.loop, lengthOf(*pattern));
  const Beats from = loop ? loop->from : Beats(0), until = loop ? loop->until : whole;
  score.length = score.frameAt(until);
  score.loopStart = score.frameAt(from);
  EventWriter writer(score, patches, project);
  writer.beginAt(from);
  writer.add(*pattern, Beats(0), until, {});
  writer.goRound();
  writer.finish();
  return score;
}

} // namespace tuvvo
