#include "crate/crate_inside.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tuvvo {

namespace {

/// "rain quay" as FTS5 wants it: every word in quotes, as a beginning, all of them.
std::string matchOf(const std::vector<std::string>& words) {
  std::string out;
  for (const auto& word : words) {
    bool any = false;
    std::string quoted = "\"";
    for (char c : word) {
      if (c == '"' || c == '\0') continue;
      any = any || static_cast<unsigned char>(c) >= 0x80 ||
            std::isalnum(static_cast<unsigned char>(c));
      quoted += c;
    }
    // One letter is a word that has only just begun: it would find nearly everything, slowly.
    if (any && word.size() > 1) out += quoted + "\"* ";
  }
  return out;
}

/// What a source is put in order by; what is not known comes last.
float orderKey(const Facet& f, CrateOrder order) {
  constexpr float kLast = 1e30f;
  switch (order) {
  case CrateOrder::Reach:
    return f.reach;
  case CrateOrder::Name:
    return float(f.nameRank);
  case CrateOrder::Newest:
    return 0; // by the number alone
  case CrateOrder::Tempo:
    return f.tempo > 0 ? f.tempo : kLast;
  case CrateOrder::Length:
    return f.heard ? f.seconds : kLast;
  case CrateOrder::Stars:
    return -float(f.stars);
  }
  return 0;
}

} // namespace

FitQuestion fitQuestion(const CrateRow& row, const BeatNow& beat) {
  FitQuestion question;
  question.bpm = row.tempo;
  question.key = row.key;
  question.tuning = row.tuning;
  if (row.duration.value > 0) question.hitsASecond = row.hits / row.duration.value;
  question.rings = row.kind != SoundKind::Break;
  question.toBpm = beat.tempo;
  question.toKey = beat.key;
  return question;
}

Result<CrateFound> Crate::find(const Query& query, CrateOrder order, const BeatNow& beat) {
  return guarded<CrateFound>([&] {
    Inside& in = *m_inside;
    if (in.reachBeat != beat)
      for (auto& facet : in.facets) facet.reach = -1;
    in.reachBeat = beat;
    const FacetFilter filter(query, beat);
    if (order == CrateOrder::Name) in.rankNames();
    // Key and number side by side, so that sorting does not jump about in memory.
    std::vector<std::pair<float, CrateId>> found;
    const auto consider = [&](Facet& facet) {
      if (!filter.takes(facet)) return;
      if (facet.reach < 0) facet.reach = tuvvo::reachOf(facet, beat);
      const bool like = query.likeThis && query.like && facet.likeness;
      found.emplace_back(like ? unlikeness(*facet.likeness, *query.like) : orderKey(facet, order),
                         order == CrateOrder::Newest && !like ? -facet.id : facet.id);
    };
    // Places that every question of words, chords and tags agrees on; none asked: all.
    std::vector<std::vector<CrateId>> lists;
    const auto gather = [&](Statement& question) {
      auto& list = lists.emplace_back();
      while (question.step()) list.push_back(question.integer(0));
      question.reset();
      std::sort(list.begin(), list.end());
      list.erase(std::unique(list.begin(), list.end()), list.end());
    };
    if (const std::string match = matchOf(query.words); !match.empty())
      gather(in.ask("SELECT rowid FROM words WHERE words MATCH ?1").with(match));
    for (const auto& tag : query.tags)
      gather(in.ask("SELECT source FROM tag WHERE tag = ?1").with(tag));
    if (const auto& chord = query.chord) {
      if (chord->minor)
        gather(in.ask("SELECT source FROM chord WHERE minor = ?1 AND bars >= ?2")
                   .with(*chord->minor, chord->bars - 0.02));
      else
        gather(in.ask("SELECT source FROM chord WHERE root = ?1 AND ending = ?2 AND bars >= ?3")
                   .with(chord->root.value_or(0), chord->ending, chord->bars - 0.02));
    }
    if (lists.empty()) {
      for (auto& facet : in.facets) consider(facet);
    } else {
      std::vector<CrateId> both = lists[0], next;
      for (std::size_t i = 1; i < lists.size(); ++i) {
        next.clear();
        std::set_intersection(both.begin(), both.end(), lists[i].begin(), lists[i].end(),
                              std::back_inserter(next));
        both.swap(next);
      }
      for (CrateId id : both)
        if (const auto place = in.placeOf.find(id); place != in.placeOf.end())
          consider(in.facets[place->second]);
    }
    std::sort(found.begin(), found.end());
    CrateFound out;
    out.total = int(in.facets.size());
    out.ids.reserve(found.size());
    for (const auto& [key, id] : found) out.ids.push_back(std::abs(id));
    return out;
  });
}

double Crate::reachOf(CrateId id, const BeatNow& beat) {
  const std::lock_guard lock(m_mutex);
  const auto place = m_inside->placeOf.find(id);
  return place == m_inside->placeOf.end()
             ? std::numeric_limits<double>::infinity()
             : double(tuvvo::reachOf(m_inside->facets[place->second], beat));
}

Result<CrateId> Crate::idOf(const std::string& hash) {
  return guarded<CrateId>([&] { return m_inside->idOf(hash); });
}

Result<std::optional<CrateRow>> Crate::row(CrateId id) {
  using Row = std::optional<CrateRow>;
  return guarded<Row>([&]() -> Row {
    const auto place = m_inside->placeOf.find(id);
    if (place == m_inside->placeOf.end()) return std::nullopt;
    const Facet& f = m_inside->facets[place->second];
    CrateRow row;
    row.id = id;
    row.name = f.name;
    if (f.kind >= 0) row.kind = SoundKind(f.kind);
    row.duration = Seconds(double(f.seconds));
    if (f.tempo > 0) row.tempo = Bpm(double(f.tempo));
    row.steady = f.steady;
    row.exact = f.exact;
    row.bars = f.bars;
    if (f.key >= 0) row.key = KeyName{f.key % 12, f.key >= 12};
    row.tuning = Cents(double(f.tuning));
    row.stars = f.stars;
    row.heard = f.heard;
    row.missing = f.copies == 0;
    row.cleared = f.cleared;
    row.used = f.used;
    row.copies = f.copies;
    Statement& more = m_inside->ask(
        "SELECT s.hash, s.kindSure, s.keySure, s.lufs, s.hits, s.tempo, (SELECT path FROM file f "
        "WHERE f.source = s.id ORDER BY f.missing, f.id LIMIT 1) FROM source s WHERE s.id = ?1");
    if (more.with(id).step()) {
      row.hash = more.text(0);
      row.kindConfidence = more.real(1);
      row.keyConfidence = more.real(2);
      row.lufs = more.real(3);
      row.hits = int(more.integer(4));
      if (!more.null(5)) row.tempo = Bpm(more.real(5)); // to its last digit
      row.path = more.text(6);
    }
    more.reset();
    return row;
  });
}

Result<std::optional<Crate::Item>> Crate::item(CrateId id) {
  using Found = std::optional<Item>;
  return guarded<Found>([&]() -> Found {
    Inside& in = *m_inside;
    if (!in.placeOf.contains(id)) return std::nullopt;
    Item item;
    item.source = in.sourceOf(id);
    item.marks = in.marksOf(item.source.hash);
    Statement& picture = in.ask("SELECT picture FROM heard WHERE source = ?1");
    if (picture.with(id).step()) {
      const auto bytes = picture.bytes(0);
      item.picture.assign(bytes.begin(), bytes.end());
    }
    picture.reset();
    Statement& files = in.ask("SELECT path FROM file WHERE source = ?1 ORDER BY missing, id");
    files.with(id);
    while (files.step()) item.paths.push_back(files.text(0));
    files.reset();
    Statement& uses = in.ask("SELECT DISTINCT name FROM used WHERE hash = ?1 ORDER BY name");
    uses.with(item.source.hash);
    while (uses.step()) item.usedIn.push_back(uses.text(0));
    uses.reset();
    return item;
  });
}

} // namespace tuvvo
