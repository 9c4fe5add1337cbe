#include "crate/crate_inside.h"

#include "base/files.h"
#include "base/hash.h"

namespace tuvvo {

Result<Marks> Crate::marksOf(const std::string& hash) {
  return guarded<Marks>([&] { return m_inside->marksOf(hash); });
}

Result<void> Crate::setMarks(const std::string& hash, const Marks& marks) {
  return guarded<void>([&] {
    if (hash.empty() || m_inside->marksOf(hash) == marks) return;
    Transaction once(m_inside->database);
    if (marks == Marks{})
      m_inside->ask("DELETE FROM marks WHERE hash = ?1").with(hash).run();
    else
      m_inside->ask("INSERT OR REPLACE INTO marks(hash, marks) VALUES(?1, ?2)")
          .with(hash, marksToText(marks))
          .run();
    if (const CrateId id = m_inside->idOf(hash)) m_inside->refresh(id);
    m_inside->setUnsaved(true);
    once.commit();
    ++m_changes;
  });
}

Result<std::vector<std::pair<std::string, std::string>>> Crate::searches() {
  using Searches = std::vector<std::pair<std::string, std::string>>;
  return guarded<Searches>([&] {
    Searches out;
    Statement& all = m_inside->ask("SELECT name, words FROM search ORDER BY name");
    all.with();
    while (all.step()) out.emplace_back(all.text(0), all.text(1));
    all.reset();
    return out;
  });
}

Result<void> Crate::keepSearch(const std::string& name, const std::string& words) {
  return guarded<void>([&] {
    if (words.empty())
      m_inside->ask("DELETE FROM search WHERE name = ?1").with(name).run();
    else
      m_inside->ask("INSERT OR REPLACE INTO search(name, words) VALUES(?1, ?2)")
          .with(name, words)
          .run();
    m_inside->setUnsaved(true);
    ++m_changes;
  });
}

Result<std::vector<std::string>> Crate::folders() {
  return guarded<std::vector<std::string>>([&] {
    std::vector<std::string> out;
    Statement& all = m_inside->ask("SELECT path FROM folder ORDER BY path");
    all.with();
    while (all.step()) out.push_back(all.text(0));
    all.reset();
    return out;
  });
}

Result<void> Crate::addFolder(const std::string& folder) {
  return guarded<void>([&] {
    m_inside->ask("INSERT OR IGNORE INTO folder(path) VALUES(?1)").with(folder).run();
    m_inside->setUnsaved(true);
    ++m_changes;
  });
}

Result<void> Crate::removeFolder(const std::string& folder) {
  return guarded<void>([&] {
    Transaction once(m_inside->database);
    m_inside->ask("DELETE FROM folder WHERE path = ?1").with(folder).run();
    std::vector<CrateId> touched;
    Statement& files = m_inside->ask(
        "SELECT DISTINCT source FROM file WHERE path > ?1 || '/' AND path < ?1 || '0' "
        "AND source IS NOT NULL");
    files.with(folder);
    while (files.step()) touched.push_back(files.integer(0));
    files.reset();
    m_inside->ask("DELETE FROM file WHERE path > ?1 || '/' AND path < ?1 || '0'")
        .with(folder)
        .run();
    for (CrateId id : touched) m_inside->dropIfUnwanted(id);
    m_inside->setUnsaved(true);
    once.commit();
    ++m_changes;
  });
}

Result<void> Crate::setUses(const std::string& project, const std::string& name,
                            const std::vector<std::string>& hashes) {
  return guarded<void>([&] {
    Transaction once(m_inside->database);
    std::unordered_set<std::string> touched(hashes.begin(), hashes.end());
    Statement& before = m_inside->ask("SELECT hash FROM used WHERE project = ?1");
    before.with(project);
    while (before.step()) touched.insert(before.text(0));
    before.reset();
    m_inside->ask("DELETE FROM used WHERE project = ?1").with(project).run();
    for (const auto& hash : hashes)
      m_inside->ask("INSERT INTO used(project, name, hash) VALUES(?1, ?2, ?3)")
          .with(project, name, hash)
          .run();
    for (const auto& hash : touched)
      if (const CrateId id = m_inside->idOf(hash)) m_inside->loadFacets(id);
    once.commit();
    ++m_changes;
  });
}

void Crate::Inside::setUnsaved(bool unsaved) {
  if (unsaved == unsavedMarks) return;
  keep("unsaved", unsaved ? "yes" : "");
  unsavedMarks = unsaved;
}

CrateExport Crate::Inside::gatherExport() {
  CrateExport all;
  Statement& marks =
      ask("SELECT m.hash, m.marks, s.name FROM marks m LEFT JOIN source s ON s.hash = m.hash");
  marks.with();
  while (marks.step()) {
    if (auto read = marksFromText(marks.text(1))) all.marks[marks.text(0)] = std::move(*read);
    if (!marks.null(2)) all.names[marks.text(0)] = marks.text(2);
  }
  marks.reset();
  Statement& searches = ask("SELECT name, words FROM search");
  searches.with();
  while (searches.step()) all.searches[searches.text(0)] = searches.text(1);
  searches.reset();
  Statement& folders = ask("SELECT path FROM folder ORDER BY path");
  folders.with();
  while (folders.step()) all.folders.push_back(folders.text(0));
  folders.reset();
  all.extra = extraFromText(kept("papersRest"));
  return all;
}

Result<void> Crate::writeProvenance() {
  std::string text;
  auto gathered = guarded<bool>([&] {
    if (!m_inside->unsavedMarks || m_inside->readOnlyProvenance) return false;
    text = exportText(m_inside->gatherExport());
    // What is said while the file is written is written the next time.
    m_inside->unsavedMarks = false;
    return true;
  });
  if (!gathered) return gathered.error();
  if (!*gathered) return {};
  auto written = writeFileAtomically(m_inside->provenanceFile, text);
  const auto noted = guarded<void>([&] {
    if (!written) {
      m_inside->unsavedMarks = true;
      return;
    }
    Transaction once(m_inside->database);
    m_inside->keep("papersHash", contentHash(text.data(), text.size()));
    if (!m_inside->unsavedMarks) m_inside->keep("unsaved", "");
    once.commit();
  });
  return written ? noted : written;
}

} // namespace tuvvo
