#include "session/deck_hand.h"
#include "session/music_text.h"

#include "base/steady_clock.h"
#include "model/edits.h"

namespace tuvvo {

void DeckHand::set(const PerformanceSettings& settings) {
  if (settings == m_settings) return;
  m_settings = settings;
  m_settings.velocity = std::clamp(m_settings.velocity, 0.05, 1.0);
  m_settings.soft = std::clamp(m_settings.soft, 0.0, 0.3);
  m_settings.rollBeats = std::clamp(m_settings.rollBeats, 1 / 16.0, 4.0);
  m_settings.swell = std::clamp(m_settings.swell, -1.0, 1.0);
  m_settings.climb = std::clamp(m_settings.climb, -24.0, 24.0);
  emit changed();
}

void DeckHand::setSpread(std::optional<SpreadBy> by) {
  PerformanceSettings hand = m_settings;
  hand.spread = by;
  const Key* key = findKey(m_document.project(), m_document.selection().key);
  if (!hand.spread || !m_settings.spread)
    hand.spreadKey = m_document.selection().key; // stays while the way changes
  if (by && !key) {
    emit message(tr("Choose the key whose sound is to lie over the whole deck first."), true);
    return;
  }
  const Key* under = findKey(m_document.project(), hand.spreadKey);
  if (by == SpreadBy::Length && under && !under->gate && !under->loop.on) {
    m_document.edit(tr("Hold a key"),
                    withKeyChanged(m_document.project(), under->id, [](Key& k) { k.gate = true; }));
    emit message(tr("%1 is now held, so that its lengths count.")
                     .arg(nameText(m_document.project(), *under)),
                 false);
  }
  set(hand);
}

const Key* DeckHand::keyUnder(Row row, int column) const {
  if (m_settings.spread)
    if (const Key* key = findKey(m_document.project(), m_settings.spreadKey)) return key;
  return keyAt(m_document.project(), row, column, m_document.selection().page);
}

void DeckHand::sendStrike(Id id, const PerformanceHit& hit, std::uint32_t touch) {
  const Key* key = findKey(m_document.project(), id);
  Engine::Command c{Engine::Command::Kind::Strike};
  c.key = id;
  c.touch = touch;
  c.velocity = float(std::clamp(hit.velocity, 0.02, 1.0));
  c.tune = float(ratioOf(hit.tune));
  c.from = float(hit.start);
  c.bright = float(hit.bright);
  if (key) c.hold = m_player.holdOf(*key, hit);
  if (m_settings.roll)
    c.roll = {m_settings.rollBeats, float(m_settings.swell), float(m_settings.climb)};
  c.when = steadyNow();
  m_player.engine().send(c);
}

Id DeckHand::press(const Press& press) {
  const Key* key = keyUnder(press.row, press.column);
  if (!key) return 0;
  m_touched[press.touch] = key->id;
  if (m_settings.erase) {
    Engine::Command c{Engine::Command::Kind::Erase};
    c.key = key->id;
    c.on = true;
    m_player.engine().send(c);
    m_recorder.beginErasing(key->id);
    return key->id;
  }
  const double velocity =
      press.velocity > 0 ? press.velocity : m_soft.next(m_settings.velocity, m_settings.soft);
  PerformanceHit hit;
  hit.velocity = velocity;
  if (m_settings.spread)
    hit = spreadHit(*m_settings.spread, int(press.row), press.column, velocity,
                    m_document.project().key, rootOf(m_document.project(), *key));
  sendStrike(key->id, hit, press.touch);
  return key->id;
}

void DeckHand::lift(std::uint32_t touch) {
  const Id key = m_touched.take(touch);
  if (key == 0) return;
  if (m_recorder.erases(key)) {
    m_recorder.endErasing(key);
    Engine::Command c{Engine::Command::Kind::Erase};
    c.key = key;
    m_player.engine().send(c);
    return;
  }
  Engine::Command c{Engine::Command::Kind::Release};
  c.key = key;
  c.touch = touch;
  c.when = steadyNow();
  m_player.engine().send(c);
}

void DeckHand::strike(Id key, double velocity) {
  PerformanceHit hit;
  hit.velocity = velocity;
  sendStrike(key, hit, 0);
}

void DeckHand::release(Id key) {
  Engine::Command c{Engine::Command::Kind::Release};
  c.key = key;
  c.when = steadyNow();
  m_player.engine().send(c);
}

} // namespace tuvvo
