// Sounds come into the beat: from files, from the crate, and made of others.
#pragma once

#include "session/crate_service.h"

#include <QStringList>

namespace tuvvo {

/// All of it in the background.
class SourceService : public Service {
  Q_OBJECT
public:
  SourceService(Document& document, JobService& jobs, CrateService& crate)
      : m_document(document), m_jobs(jobs), m_crate(crate) {}

  // ---- from outside (source_service.cpp) ----
  /// Reads sounds, listens to them, adds them.
  void importFiles(const QStringList& paths);
  /// Takes a source of the crate into the beat; selects it.
  void keep(CrateId id);
  /// What was never listened to, or whose hearing was lost, is heard now.
  void analyseWaiting();

  // ---- of others (source_service_made.cpp) ----
  /// Plays each key once with all that acts on it and puts the result in its place.
  void bounceInPlace(const std::vector<Id>& keys);
  /// A new source: a whole one with a first treatment; it is selected when it is there.
  void treatWhole(Id source, const Treatment& first);
  /// Another recipe for a made source, played anew; the last one asked for wins.
  /// @param merge  as in Document::edit()
  void remake(Id source, const Recipe& made, const QString& merge = {});
  /// The recipe of a made source: the one asked for last, whether it is there yet or not.
  [[nodiscard]] std::shared_ptr<const Recipe> recipeNow(Id source) const;

signals:
  /// Another recipe was asked for, or was refused.
  void recipesChanged();

private:
  void sayLater(const std::string& text);

  Document& m_document;
  JobService& m_jobs;
  CrateService& m_crate;
  std::map<Id, std::shared_ptr<const Recipe>> m_remaking; ///< asked for and not there yet
  std::map<Id, std::shared_ptr<JobContext>> m_remakeJobs;
};

} // namespace tuvvo
