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
  score.meters.clear();
  for (const auto& placed : timeline.sections) {
    const PatternPtr pattern = findPattern(project, placed.pattern);
    const Section* section = findSection(project, placed.section);
    if (!pattern || !section) continue;
    writer.add(*pattern, placed.start, placed.start + placed.length, section->mutedParts);
    if (score.meters.empty() || score.meters.back().meter != placed.meter)
      score.meters.push_back({placed.start, placed.meter});
  }
  if (score.meters.empty()) score.meters.push_back({Beats(0), project.meter});
  score.length = score.frameAt(timeline.length);
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
  Beats length = lengthOf(*pattern);
  if (options.bars > 0)
    length = std::min(length, barOf(pattern->meter) * options.bars);
  else
    length = loopLength(*pattern);
  score.length = score.frameAt(length);
  EventWriter writer(score, patches, project);
  writer.add(*pattern, Beats(0), length, {});
  writer.goRound();
  writer.finish();
  return score;
}

} // namespace tuvvo
