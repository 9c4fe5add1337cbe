#include "listen/listen.h"
#include "model/edits.h"
#include "play/bounce.h"
#include "session/session.h"

namespace tuvvo {

void Session::bounceInPlace(const std::vector<Id>& keys) {
  struct Bounce {
    Id key;
    SourcePtr from;
    Recipe recipe;
    std::string name;
  };
  std::vector<Bounce> bounces;
  for (Id id : keys) {
    const Key* key = findKey(project(), id);
    const Source* from = key ? findSource(project(), key->sound.source) : nullptr;
    const auto made = key ? recipeOf(project(), *key) : std::nullopt;
    if (!made) continue;
    std::string name = from->name;
    if (key->sound.cut != 0 || !key->name.empty()) name += " " + nameOf(project(), *key);
    bounces.push_back({id, std::make_shared<Source>(*from), *made, std::move(name)});
  }
  if (bounces.empty()) return;
  const QString text = bounces.size() == 1
                           ? tr("Bouncing %1").arg(QString::fromStdString(bounces[0].name))
                           : tr("Bouncing %1 slices").arg(bounces.size());
  startJob(text, [this, bounces, value = projectPtr()](JobContext& job) {
    std::vector<std::pair<Id, Source>> made;
    for (std::size_t i = 0; i < bounces.size(); ++i) {
      const auto& b = bounces[i];
      auto sound = bounce(value->sources, b.recipe, job);
      if (job.cancelled()) return;
      if (!sound) {
        later([this, said = sound.error().text()] {
          emit message(QString::fromStdString(said), true);
        });
        return;
      }
      Source source = sourceOf(*b.from, b.recipe, *sound, b.name);
      source.heard = listen(**sound, job);
      made.emplace_back(b.key, std::move(source));
      job.report(double(i + 1) / double(bounces.size()));
    }
    if (job.cancelled()) return;
    later([this, made = std::move(made)] {
      Project next = project();
      Id source = 0;
      for (const auto& [key, bounced] : made)
        next = withBounced(std::move(next), key, bounced, &source);
      edit(made.size() == 1 ? tr("Bounce in place") : tr("Bounce %1 in place").arg(made.size()),
           std::move(next));
      if (source != 0) selectSource(source);
    });
  });
}

void Session::treatWhole(Id id, const Treatment& first) {
  const Source* found = findSource(project(), id);
  if (!found || !found->sound) return;
  const auto from = std::make_shared<Source>(*found);
  const Recipe made = treatedWhole(*from, {first});
  const std::string name = from->name + ", " + typeOf(first.kind).name;
  startJob(tr("Treating %1").arg(QString::fromStdString(from->name)),
           [this, from, made, name](JobContext& job) {
             auto sound = bounce({from}, made, job);
             if (job.cancelled()) return;
             if (!sound) {
               later([this, said = sound.error().text()] {
                 emit message(QString::fromStdString(said), true);
               });
               return;
             }
             Source source = sourceOf(*from, made, *sound, name);
             source.heard = listen(**sound, job);
             if (job.cancelled()) return;
             later([this, source = std::move(source)] {
               Id added = 0;
               Project next = withSource(project(), source, &added);
               edit(tr("Make %1").arg(QString::fromStdString(source.name)), std::move(next));
               selectSource(added);
             });
           });
}

void Session::remake(Id id, const Recipe& made, const QString& merge) {
  const Source* now = findSource(project(), id);
  const Source* found = findSource(project(), made.as.sound.source);
  if (!now || !now->recipe) return;
  if (!found) {
    emit message(tr("What %1 was made from is no longer in the beat, so its recipe cannot be "
                    "changed.")
                     .arg(QString::fromStdString(now->name)),
                 true);
    return;
  }
  if (const auto running = m_remakeJobs.find(id); running != m_remakeJobs.end())
    running->second->cancel();
  const auto wanted = std::make_shared<const Recipe>(made);
  m_remaking[id] = wanted;
  m_remakeJobs[id] = m_pool.run([this, id, value = projectPtr(), wanted, merge](JobContext& job) {
    auto sound = bounce(value->sources, *wanted, job);
    std::optional<Listening> heard;
    if (sound) heard = listen(**sound, job);
    const bool cancelled = job.cancelled();
    later([this, id, wanted, merge, cancelled, sound = std::move(sound), heard = std::move(heard)] {
      if (m_remaking[id] != wanted) return; // another one was asked for meanwhile
      m_remaking.erase(id);
      m_remakeJobs.erase(id);
      if (cancelled) return;
      if (!sound) {
        emit message(QString::fromStdString(sound.error().text()), true);
        emit changed(); // the figures go back to what is heard
        return;
      }
      edit(tr("Change a treatment"), withRemade(project(), id, *wanted, *sound, *heard), merge);
    });
  });
  emit changed();
}

std::shared_ptr<const Recipe> Session::recipeNow(Id id) const {
  if (const auto wanted = m_remaking.find(id); wanted != m_remaking.end()) return wanted->second;
  const Source* source = findSource(project(), id);
  return source ? source->recipe : nullptr;
}

void Session::stopBaking() {
  m_bakery.stop();
  rebuildScore();
  emit bakeMoved();
}

void Session::resumeBaking() {
  m_bakery.resume();
  emit bakeMoved();
}

void Session::writeSlicesTo(Id id, const SlicesOut& options, Replace replace) {
  startJob(tr("Writing slices"), [this, id, options, outputs = outputs(replace),
                                  value = projectPtr()](JobContext& job) mutable {
    const auto written = writeSlices(*value, id, options, outputs, job);
    if (job.cancelled()) return;
    const QString said = written ? tr("%1 files written to %2")
                                       .arg(written->size())
                                       .arg(QString::fromStdString(options.folder.string()))
                                 : QString::fromStdString(written.error().text());
    later([this, said, trouble = !written.ok()] { emit message(said, trouble); });
  });
}

} // namespace tuvvo
