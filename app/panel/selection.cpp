#include "panel/selection.h"

#include "cut/slice_levels.h"
#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

Selection withSourceChosen(Selection s, Id source) {
  s.source = source;
  s.cut = 0;
  s.alsoCuts.clear();
  return s;
}

Selection withKeyChosen(Selection s, const Project& project, Id id) {
  s.key = id;
  if (const Key* key = findKey(project, id)) {
    const Source* source = findSource(project, key->sound.source);
    if (source && !source->kit) {
      s.source = key->sound.source;
      s.cut = key->sound.cut;
      s.alsoCuts.clear();
    }
    if (key->row == Row::Cuts) s.page = key->page;
  }
  return s;
}

Selection withCutChosen(Selection s, const Project& project, Id source, Id cut) {
  s.source = source;
  s.cut = cut;
  s.alsoCuts.clear();
  for (const auto& key : project.keys)
    if (cut != 0 && key.sound == SoundRef{source, cut}) {
      s.key = key.id;
      if (key.row == Row::Cuts) s.page = key.page;
    }
  return s;
}

Selection withCutToggled(Selection s, const Project& project, Id cut) {
  if (s.cut == 0 || cut == s.cut) {
    const Id source = s.source;
    return withCutChosen(std::move(s), project, source, cut);
  }
  if (!s.alsoCuts.insert(cut).second) s.alsoCuts.erase(cut);
  return s;
}

Selection withCutsUpTo(Selection s, const Project& project, Id cut) {
  const Source* source = findSource(project, s.source);
  if (!source || s.cut == 0) {
    const Id same = s.source;
    return withCutChosen(std::move(s), project, same, cut);
  }
  s.alsoCuts.clear();
  bool inside = false;
  for (const auto& each : source->cuts) {
    const bool end = each.id == s.cut || each.id == cut;
    if (inside || end) s.alsoCuts.insert(each.id);
    if (end && s.cut != cut) inside = !inside;
  }
  s.alsoCuts.erase(s.cut);
  return s;
}

Selection withAllCuts(Selection s, const Project& project) {
  const Source* source = findSource(project, s.source);
  if (!source || source->cuts.empty()) return s;
  if (s.cut == 0) s = withCutChosen(std::move(s), project, source->id, source->cuts.front().id);
  for (const auto& cut : source->cuts)
    if (cut.id != s.cut) s.alsoCuts.insert(cut.id);
  return s;
}

Selection withPatternChosen(Selection s, Id pattern) {
  s.pattern = pattern;
  return s;
}

Selection withSectionChosen(Selection s, const Project& project, Id section) {
  s.section = section;
  if (const Section* found = findSection(project, section)) s.pattern = found->pattern;
  return s;
}

Selection withPage(Selection s, const Project& project, int page) {
  s.page = std::clamp(page, 0, cutPages(project) - 1);
  return s;
}

Selection keptAlive(Selection s, const Project& p) {
  const Source* source = findSource(p, s.source);
  if (!source) {
    s.source = 0;
    for (const auto& candidate : p.sources)
      if (!candidate->kit && !s.source) s.source = candidate->id;
    source = findSource(p, s.source);
  }
  if (!source || !findCut(*source, s.cut)) s.cut = 0;
  std::erase_if(s.alsoCuts, [&](Id cut) { return s.cut == 0 || !findCut(*source, cut); });
  if (!findKey(p, s.key)) s.key = p.keys.empty() ? 0 : p.keys.front().id;
  if (!findPattern(p, s.pattern)) s.pattern = p.patterns.empty() ? 0 : p.patterns.front()->id;
  if (!findSection(p, s.section)) s.section = p.sections.empty() ? 0 : p.sections.front().id;
  s.page = std::min(s.page, cutPages(p) - 1);
  return s;
}

std::vector<Id> chosenKeys(const Selection& selection, const Project& project) {
  if (selection.cut == 0) return {};
  return slicesOf(project, selection.source,
                  [&](Id cut) { return cut == selection.cut || selection.alsoCuts.contains(cut); });
}

} // namespace tuvvo
