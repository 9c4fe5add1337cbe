#include "session/source_service.h"

#include "audio/decode.h"
#include "listen/analyse.h"
#include "model/edits.h"

#include <QFileInfo>

namespace tuvvo {

namespace {

/// What was heard in a sound before, and what was said of it.
void recallFromCrate(Crate* crate, Source& source) {
  if (!crate) return;
  if (const auto marks = crate->marksOf(source.hash)) {
    source.corrections = marks->corrections;
    source.provenance = marks->provenance;
  }
  const auto id = crate->idOf(source.hash);
  if (!id || *id == 0) return;
  auto item = crate->item(*id);
  if (!item || !*item) return;
  source.heard = (*item)->source.heard;
  if (source.provenance == Provenance{}) source.provenance = (*item)->source.provenance;
}

} // namespace

void SourceService::sayLater(const std::string& text) {
  m_jobs.later([this, text] { emit message(QString::fromStdString(text), true); });
}

void SourceService::importFiles(const QStringList& paths) {
  if (paths.isEmpty()) return;
  const QString text = paths.size() == 1 ? tr("Listening to %1").arg(QFileInfo(paths[0]).fileName())
                                         : tr("Listening to %1 sounds").arg(paths.size());
  m_jobs.start(text, [this, paths, library = m_crate.crate()](JobContext& context) {
    for (const QString& path : paths) {
      auto decoded = decodeFile(path.toStdString(), context);
      if (context.cancelled()) return;
      if (!decoded) {
        sayLater(decoded.error().text());
        continue;
      }
      Source source;
      source.name = QFileInfo(path).completeBaseName().toStdString();
      source.origin = path.toStdString();
      source.sound = decoded->sound;
      source.hash = source.sound->hash();
      recallFromCrate(library, source);
      if (!source.heard) source.heard = analyse(*source.sound, context);
      if (source.provenance == Provenance{})
        source.provenance = provenanceFromTags(path.toStdString());
      if (context.cancelled()) return;
      m_jobs.later([this, source, warnings = decoded->warnings] {
        Id id = 0;
        const std::size_t before = m_document.project().sources.size();
        Project next = withSource(m_document.project(), source, &id);
        const bool known = next.sources.size() == before;
        m_document.edit(tr("Add %1").arg(QString::fromStdString(source.name)), std::move(next));
        m_document.select(withSourceChosen(m_document.selection(), id));
        if (known)
          emit message(tr("%1 is in the crate already.").arg(QString::fromStdString(source.name)),
                       false);
        for (const auto& warning : warnings)
          emit message(QString::fromStdString(source.name + ": " + warning), true);
      });
    }
  });
}

void SourceService::keep(CrateId id) {
  if (!m_crate.crate()) return;
  auto item = m_crate.crate()->item(id);
  if (!item || !*item) return;
  const Source known = (*item)->source;
  for (const auto& source : m_document.project().sources)
    if (source->hash == known.hash) {
      m_document.select(withSourceChosen(m_document.selection(), source->id));
      emit message(tr("%1 is in this beat already.").arg(QString::fromStdString(known.name)),
                   false);
      return;
    }
  m_jobs.start(tr("Taking %1 into the beat").arg(QString::fromStdString(known.name)),
               [this, known, paths = (*item)->paths](JobContext& job) {
                 std::string said;
                 for (const auto& path : paths) {
                   auto decoded = decodeFile(path, job);
                   if (job.cancelled()) return;
                   if (!decoded) {
                     said = decoded.error().text();
                     continue;
                   }
                   auto source = std::make_shared<Source>(known);
                   source->sound = decoded->sound;
                   source->hash = source->sound->hash();
                   if (!source->heard || source->hash != known.hash)
                     source->heard = analyse(*source->sound, job);
                   m_jobs.later([this, source] {
                     Id added = 0;
                     m_document.edit(tr("Keep %1").arg(QString::fromStdString(source->name)),
                                     withSource(m_document.project(), *source, &added));
                     m_document.select(withSourceChosen(m_document.selection(), added));
                   });
                   return;
                 }
                 sayLater(said);
               });
}

void SourceService::analyseWaiting() {
  for (const auto& source : m_document.project().sources)
    if (source->sound && !source->heard && !source->kit)
      m_jobs.run([this, id = source->id, sound = source->sound](JobContext& context) {
        auto heard = analyse(*sound, context);
        m_jobs.later([this, id, heard = std::move(heard)] {
          m_document.edit(
              tr("Listen"),
              withSourceChanged(m_document.project(), id, [&](Source& s) { s.heard = heard; }),
              QStringLiteral("listen"));
        });
      });
}

} // namespace tuvvo
