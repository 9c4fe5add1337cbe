#include "crate/crate_inside.h"

#include "formats/analysis_json.h"
#include "formats/provenance_json.h"

#include <nlohmann/json.hpp>

namespace tuvvo {

namespace {

enum FileState { kWaiting = 0, kHeard = 1, kUnreadable = 2 };

} // namespace

Result<int> Crate::sawFiles(std::span<const FileLook> files) {
  return guarded<int>([&] {
    int known = 0;
    Inside& in = *m_inside;
    Transaction once(in.database);
    for (const auto& look : files) {
      Statement& question =
          in.ask("SELECT id, bytes, time, state, source, missing FROM file WHERE path = ?1");
      if (!question.with(look.path).step()) {
        question.reset();
        in.ask("INSERT INTO source(name) VALUES(?1)").with(stemOf(look.path)).run();
        const CrateId id = in.database.lastId();
        in.ask(
              "INSERT INTO file(source, path, bytes, time, state, sweep) VALUES(?1, ?2, ?3, ?4, 0, "
              "?5)")
            .with(id, look.path, look.bytes, look.time, in.sweep)
            .run();
        in.refresh(id);
        continue;
      }
      const std::int64_t file = question.integer(0), state = question.integer(3);
      const bool same = question.integer(1) == look.bytes && question.integer(2) == look.time;
      const bool missing = question.integer(5) != 0;
      const CrateId source = question.integer(4);
      question.reset();
      if (same) {
        known += state != kWaiting;
        in.ask("UPDATE file SET sweep = ?2, missing = 0 WHERE id = ?1").with(file, in.sweep).run();
        if (missing && source) in.loadFacets(source);
        continue;
      }
      // Other content under the same name: another source, to be heard.
      CrateId fresh = source;
      if (state != kWaiting) {
        in.ask("INSERT INTO source(name) VALUES(?1)").with(stemOf(look.path)).run();
        fresh = in.database.lastId();
      }
      in.ask("UPDATE file SET bytes = ?2, time = ?3, state = 0, why = NULL, sweep = ?4, missing = "
             "0, "
             "source = ?5 WHERE id = ?1")
          .with(file, look.bytes, look.time, in.sweep, fresh)
          .run();
      in.refresh(fresh);
      if (source && source != fresh) in.dropIfUnwanted(source);
    }
    once.commit();
    ++m_changes;
    return known;
  });
}

Result<std::int64_t> Crate::beginSweep() {
  return guarded<std::int64_t>([&] { return ++m_inside->sweep; });
}

Result<void> Crate::endSweep(const std::string& folder, std::int64_t sweep) {
  return guarded<void>([&] {
    Inside& in = *m_inside;
    Transaction once(in.database);
    std::vector<std::pair<std::int64_t, CrateId>> gone;
    Statement& unseen =
        in.ask("SELECT id, source FROM file WHERE path > ?1 || '/' AND path < ?1 || "
               "'0' AND sweep < ?2 AND missing = 0");
    unseen.with(folder, sweep);
    while (unseen.step()) gone.emplace_back(unseen.integer(0), unseen.integer(1));
    unseen.reset();
    for (const auto& [file, source] : gone) {
      in.ask("UPDATE file SET missing = 1 WHERE id = ?1").with(file).run();
      // Moved, not lost, where the same sound lies somewhere else; what was never heard is gone.
      in.ask("DELETE FROM file WHERE id = ?1 AND (state <> 1 OR EXISTS(SELECT 1 FROM file o WHERE "
             "o.source = ?2 AND o.missing = 0))")
          .with(file, source)
          .run();
      if (!source) continue;
      in.dropIfUnwanted(source);
      if (in.placeOf.contains(source)) in.nameByFile(source);
    }
    once.commit();
    if (!gone.empty()) ++m_changes;
  });
}

Result<std::vector<Crate::Waiting>> Crate::waiting() {
  return guarded<std::vector<Waiting>>([&] {
    std::vector<Waiting> out;
    // Short ones first: the list fills, and what fits is found, sooner.
    Statement& all = m_inside->ask(
        "SELECT id, path, bytes, time FROM file WHERE state = 0 AND missing = 0 ORDER BY bytes");
    all.with();
    while (all.step())
      out.push_back({all.integer(0), {all.text(1), all.integer(2), all.integer(3)}});
    all.reset();
    return out;
  });
}

Result<bool> Crate::sizeKnown(std::int64_t bytes) {
  return guarded<bool>([&] {
    Statement& question =
        m_inside->ask("SELECT EXISTS(SELECT 1 FROM file WHERE bytes = ?1 AND state = 1)");
    const bool known = question.with(bytes).step() && question.integer(0) != 0;
    question.reset();
    return known;
  });
}

bool Crate::Inside::tieKnown(std::int64_t file, const std::string& hash) {
  const CrateId id = idOf(hash);
  if (!id) return false;
  const CrateId before = idOfFile(file);
  if (!before) return true; // the folder went meanwhile
  ask("UPDATE file SET source = ?2, state = 1, why = NULL WHERE id = ?1").with(file, id).run();
  // Files with this sound that are gone were moved to here.
  ask("DELETE FROM file WHERE source = ?1 AND missing = 1").with(id).run();
  if (before != id) dropIfUnwanted(before);
  nameByFile(id);
  return true;
}

Result<bool> Crate::tieKnown(std::int64_t file, const std::string& hash) {
  return guarded<bool>([&] {
    Transaction once(m_inside->database);
    if (!m_inside->tieKnown(file, hash)) return false;
    once.commit();
    ++m_changes;
    return true;
  });
}

Result<void> Crate::storeHeard(std::int64_t file, const HeardFile& heard, const Provenance& tags) {
  return guarded<void>([&] {
    Inside& in = *m_inside;
    Transaction once(in.database);
    if (in.tieKnown(file, heard.hash)) { // heard by another program meanwhile, too
      once.commit();
      ++m_changes;
      return;
    }
    const CrateId id = in.idOfFile(file);
    if (!id) return;
    in.ask("UPDATE source SET hash = ?2, tagged = ?3 WHERE id = ?1")
        .with(id, heard.hash,
              tags == Provenance{}
                  ? std::nullopt
                  : std::optional(toJson(tags).dump(
                        -1, ' ', false, nlohmann::ordered_json::error_handler_t::replace)))
        .run();
    const auto analysis = packed(toJson(heard.heard).dump());
    in.ask("INSERT OR REPLACE INTO heard(source, listening, picture) VALUES(?1, ?2, ?3)")
        .with(id, std::span<const std::uint8_t>(analysis),
              std::span<const std::uint8_t>(heard.picture))
        .run();
    in.ask("UPDATE file SET state = 1, why = NULL WHERE id = ?1").with(file).run();
    in.refresh(id);
    once.commit();
    ++m_changes;
  });
}

Result<void> Crate::storeUnreadable(std::int64_t file, const std::string& why) {
  return guarded<void>([&] {
    Inside& in = *m_inside;
    Transaction once(in.database);
    const CrateId id = in.idOfFile(file);
    in.ask("UPDATE file SET state = 2, why = ?2, source = NULL WHERE id = ?1")
        .with(file, why.substr(0, 500))
        .run();
    if (id) in.dropIfUnwanted(id);
    once.commit();
    ++m_changes;
  });
}

Result<Crate::Unreadable> Crate::unreadable(int most) {
  return guarded<Unreadable>([&] {
    Unreadable out;
    Statement& count = m_inside->ask("SELECT COUNT(*) FROM file WHERE state = 2");
    if (count.with().step()) out.count = int(count.integer(0));
    count.reset();
    Statement& all = m_inside->ask("SELECT path, why FROM file WHERE state = 2 LIMIT ?1");
    all.with(most);
    while (all.step()) out.some.emplace_back(all.text(0), all.text(1));
    all.reset();
    return out;
  });
}

Result<void> Crate::forget(CrateId id) {
  return guarded<void>([&] {
    Transaction once(m_inside->database);
    m_inside->ask("DELETE FROM file WHERE source = ?1").with(id).run();
    m_inside->drop(id);
    once.commit();
    ++m_changes;
  });
}

} // namespace tuvvo
