// What is done with the chosen source.
#include "crate/crate_stage.h"
#include "session/crate_service.h"
#include "session/music_text.h"
#include "session/player.h"
#include "session/reel_player.h"
#include "session/source_service.h"

#include "crate/search_line.h"
#include "crate/source_card.h"
#include "crate/source_list.h"
#include "model/edits.h"
#include "parts/source_text.h"
#include "theme/theme.h"
#include "widgets/button.h"

#include <QMenu>

namespace tuvvo {

using theme::px;

void CrateStage::playWithBeat() {
  if (!m_subject.any()) return;
  m_auditions.toggle(m_subject.source);
}

void CrateStage::keepIt() {
  if (!m_subject.any() || m_subject.missing) return;
  if (m_scope == Scope::Crate) return m_sources.keep(m_subject.row.id);
  if (m_scope == Scope::Service) {
    const auto place = std::size_t(m_subject.row.id - 1);
    return m_crate.getFromService(*service(), place);
  }
  const Source& source = *m_subject.source;
  edit(tr("Put %1 on the deck").arg(QString::fromStdString(source.name)),
       withSoundOnDeck(project(), suggestedRow(source), {source.id, 0}, source.name));
}

/// Among everything; what the service has is looked through from there.
void CrateStage::findLikeIt() {
  if (!m_subject.heard()) return;
  m_like = likenessOf(*m_subject.source->heard);
  if (!m_like) {
    emit message(tr("%1 was heard before this version listened for what it is like. Let it be "
                    "heard again first.")
                     .arg(QString::fromStdString(m_subject.source->name)),
                 true);
    return;
  }
  m_search->setLike(QString::fromStdString(m_subject.source->name));
  m_search->setWords(QStringLiteral("like this one"));
  if (m_scope == Scope::Beat) setScope(Scope::Crate);
}

/// As if it lay on a player that is plugged into the input.
void CrateStage::playIntoLine() {
  if (!m_subject.any() || m_subject.missing) return;
  auto& player = m_reel;
  if (m_subject.source->sound)
    player.playSound(QString::fromStdString(m_subject.source->name), m_subject.source->sound);
  else if (!m_subject.paths.empty())
    player.playFile(QString::fromStdString(m_subject.paths.front()));
  else
    return;
  SoundChoice choice = m_player.liveSound().choice();
  if (choice.input != InputChoice::Line) {
    choice.input = InputChoice::Line;
    m_player.chooseSound(choice);
  }
  player.start();
  emit message(tr("%1 plays into the simulated line; catch it in Keys, Catch.")
                   .arg(QString::fromStdString(m_subject.source->name)),
               false);
}

void CrateStage::correct(const QString& name, const std::function<void(Corrections&)>& change,
                         const QString& merge) {
  if (!m_subject.any()) return;
  if (m_scope == Scope::Beat) {
    edit(name,
         withSourceChanged(project(), m_subject.source->id,
                           [&](Source& s) { change(s.corrections); }),
         merge);
    return;
  }
  Marks marks = m_crate.marksOf(m_subject.source->hash);
  change(marks.corrections);
  m_crate.markSound(name, m_subject.source->hash, marks, merge);
}

void CrateStage::correctTempo(double factor) {
  const auto grid = m_subject.any() ? gridOf(*m_subject.source) : std::nullopt;
  if (!grid) return;
  const double bpm = grid->tempo.value * factor;
  if (bpm < 20 || bpm > 400) return;
  correct(factor < 1 ? tr("Half its tempo") : tr("Double its tempo"),
          [bpm](Corrections& c) { c.tempo = Bpm(bpm); });
}

void CrateStage::tapSource() {
  m_taps.tap(Seconds(double(m_clock.nsecsElapsed()) * 1e-9));
  const auto tempo = m_taps.tempo();
  if (!tempo || !m_subject.any()) return;
  correct(
      tr("Tap its tempo"), [&](Corrections& c) { c.tempo = tempo->bpm; },
      QStringLiteral("tap ") + QString::fromStdString(m_subject.source->hash));
  m_card->setTapped(tr("%1 BPM ± %2 from %3 taps")
                        .arg(tempo->bpm.value, 0, 'f', 2)
                        .arg(tempo->uncertaintyBpm, 0, 'f', 2)
                        .arg(tempo->taps));
}

void CrateStage::chooseKey() {
  if (!m_subject.any()) return;
  QMenu menu(this);
  const auto offer = [&](KeyName key, QMenu* into) {
    into->addAction(musicText(nameOf(key)), this, [this, key] {
      correct(tr("Its key is %1").arg(musicText(nameOf(key))),
              [key](Corrections& c) { c.key = key; });
    });
  };
  // What the ear thinks likely stands first.
  if (const auto& heard = m_subject.source->heard; heard && heard->key) {
    offer(heard->key->name, &menu);
    for (KeyName other : heard->key->alternatives) offer(other, &menu);
    menu.addSeparator();
  }
  for (bool minor : {false, true}) {
    QMenu* sub = menu.addMenu(minor ? tr("Minor") : tr("Major"));
    for (int tonic = 0; tonic < 12; ++tonic) offer({tonic, minor}, sub);
  }
  menu.exec(m_key->mapToGlobal(QPoint(0, m_key->height() + px(2))));
}

void CrateStage::chooseKind() {
  if (!m_subject.any()) return;
  QMenu menu(this);
  for (std::size_t k = 0; k < kSoundKinds; ++k)
    menu.addAction(kindText(SoundKind(k)), this, [this, k] {
      correct(tr("It is a %1").arg(kindText(SoundKind(k))),
              [k](Corrections& c) { c.kind = SoundKind(k); });
    });
  menu.exec(m_kind->mapToGlobal(QPoint(0, m_kind->height() + px(2))));
}

void CrateStage::giveStars(int more) {
  if (!m_subject.any() || m_scope == Scope::Service || m_subject.source->hash.empty()) return;
  Marks marks = m_subject.marks;
  marks.stars = std::clamp(marks.stars + more, 0, 5);
  m_crate.markSound(tr("Give stars"), m_subject.source->hash, marks,
                    QStringLiteral("stars %1").arg(m_subject.source->hash.c_str()));
}

void CrateStage::remove() {
  if (!m_subject.any()) return;
  if (m_scope == Scope::Beat) {
    edit(tr("Remove %1").arg(QString::fromStdString(m_subject.source->name)),
         withoutSource(project(), m_subject.source->id));
  } else if (m_scope == Scope::Crate && m_subject.missing) {
    if (auto forgotten = m_crate.crate()->forget(m_subject.row.id); !forgotten)
      emit message(QString::fromStdString(forgotten.error().text()), true);
  }
}

} // namespace tuvvo
