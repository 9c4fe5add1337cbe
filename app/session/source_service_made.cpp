// Sources that are made of others.
#include "listen/analyse.h"
#include "model/edits.h"
#include "play/bounce.h"
#include "session/source_service.h"

namespace tuvvo {

void SourceService::bounceInPlace(const std::vector<Id>& keys) {
  struct Bounce {
    Id key;
    SourcePtr from;
    Recipe recipe;
    std::string name;
  };
  std::vector<Bounce> bounces;
  for (Id id : keys) {
    const Key* key = findKey(m_document.project(), id);
    const Source* from = key ? findSource(m_document.project(), key->sound.source) : nullptr;
    const auto made = key ? recipeOf(m_document.project(), *key) : std::nullopt;
    if (!made) continue;
    std::string name = from->name;
    if (key->sound.cut != 0 || !key->name.empty()) name += " " + nameOf(m_document.project(), *key);
    bounces.push_back({id, std::make_shared<Source>(*from), *made, std::move(name)});
  }
  if (bounces.empty()) return;
  const QString text = bounces.size() == 1
                           ? tr("Bouncing %1").arg(QString::fromStdString(bounces[0].name))
                           : tr("Bouncing %1 slices").arg(bounces.size());
  m_jobs.start(text, [this, bounces, value = m_document.projectPtr()](JobContext& job) {
    std::vector<std::pair<Id, Source>> made;
    for (std::size_t i = 0; i < bounces.size(); ++i) {
      const auto& b = bounces[i];
      auto sound = bounce(value->sources, b.recipe, job);
      if (job.cancelled()) return;
      if (!sound) {
        sayLater(sound.error().text());
        return;
      }
      Source source = sourceOf(*b.from, b.recipe, *sound, b.name);
      source.heard = analyse(**sound, job);
      made.emplace_back(b.key, std::move(source));
      job.report(double(i + 1) / double(bounces.size()));
    }
    if (job.cancelled()) return;
    m_jobs.later([this, made = std::move(made)] {
      Project next = m_document.project();
      Id source = 0;
      for (const auto& [key, bounced] : made)
        next = withBounced(std::move(next), key, bounced, &source);
      m_document.edit(made.size() == 1 ? tr("Bounce in place")
                                       : tr("Bounce %1 in place").arg(made.size()),
                      std::move(next));
      if (source != 0) m_document.select(withSourceChosen(m_document.selection(), source));
    });
  });
}

void SourceService::treatWhole(Id id, const Treatment& first) {
  const Source* found = findSource(m_document.project(), id);
  if (!found || !found->sound) return;
  const auto from = std::make_shared<Source>(*found);
  const Recipe made = treatedWhole(*from, {first});
  const std::string name = from->name + ", " + std::string(typeOf(first).name);
  m_jobs.start(tr("Treating %1").arg(QString::fromStdString(from->name)), [this, from, made,
                                                                           name](JobContext& job) {
    auto sound = bounce({from}, made, job);
    if (job.cancelled()) return;
    if (!sound) {
      sayLater(sound.error().text());
      return;
    }
    Source source = sourceOf(*from, made, *sound, name);
    source.heard = analyse(**sound, job);
    if (job.cancelled()) return;
    m_jobs.later([this, source = std::move(source)] {
      Id added = 0;
      Project next = withSource(m_document.project(), source, &added);
      m_document.edit(tr("Make %1").arg(QString::fromStdString(source.name)), std::move(next));
      m_document.select(withSourceChosen(m_document.selection(), added));
    });
  });
}

void SourceService::remake(Id id, const Recipe& made, const QString& merge) {
  const Source* now = findSource(m_document.project(), id);
  const Source* found = findSource(m_document.project(), made.as.sound.source);
  if (!now || !now->recipe) return;
  if (!found) {
    emit message(tr("What %1 was made from is no longer in the beat, so it cannot be "
                    "made differently.")
                     .arg(QString::fromStdString(now->name)),
                 true);
    return;
  }
  if (const auto running = m_remakeJobs.find(id); running != m_remakeJobs.end())
    running->second->cancel();
  const auto wanted = std::make_shared<const Recipe>(made);
  m_remaking[id] = wanted;
  m_remakeJobs[id] =
      m_jobs.run([this, id, value = m_document.projectPtr(), wanted, merge](JobContext& job) {
        auto sound = bounce(value->sources, *wanted, job);
        std::optional<Analysis> heard;
        if (sound) heard = analyse(**sound, job);
        const bool cancelled = job.cancelled();
        m_jobs.later([this, id, wanted, merge, cancelled, sound = std::move(sound),
                      heard = std::move(heard)] {
          if (m_remaking[id] != wanted) return; // another one was asked for meanwhile
          m_remaking.erase(id);
          m_remakeJobs.erase(id);
          if (cancelled) return;
          if (!sound) {
            emit message(QString::fromStdString(sound.error().text()), true);
            emit recipesChanged(); // the figures go back to what is heard
            return;
          }
          m_document.edit(tr("Change a treatment"),
                          withRemade(m_document.project(), id, *wanted, *sound, *heard), merge);
        });
      });
  emit recipesChanged();
}

std::shared_ptr<const Recipe> SourceService::recipeNow(Id id) const {
  if (const auto wanted = m_remaking.find(id); wanted != m_remaking.end()) return wanted->second;
  const Source* source = findSource(m_document.project(), id);
  return source ? source->recipe : nullptr;
}

} // namespace tuvvo
