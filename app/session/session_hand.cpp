// Fingers on the deck: what they strike, how hard, and what a held one does.
#include "base/convert.h"
#include "model/edits.h"
#include "session/session.h"

#include <chrono>

namespace tuvvo {

namespace {

std::int64_t steadyNow() {
  return std::chrono::steady_clock::now().time_since_epoch() / std::chrono::nanoseconds(1);
}

} // namespace

void Session::setHand(const HandSettings& hand) {
  if (hand == m_hand) return;
  m_hand = hand;
  m_hand.velocity = std::clamp(m_hand.velocity, 0.05, 1.0);
  m_hand.soft = std::clamp(m_hand.soft, 0.0, 0.3);
  m_hand.rollBeats = std::clamp(m_hand.rollBeats, 1 / 16.0, 4.0);
  m_hand.swell = std::clamp(m_hand.swell, -1.0, 1.0);
  m_hand.climb = std::clamp(m_hand.climb, -24.0, 24.0);
  emit handChanged();
}

void Session::setSpread(std::optional<SpreadBy> by) {
  HandSettings hand = m_hand;
  hand.spread = by;
  const Key* key = findKey(project(), m_selection.key);
  if (!hand.spread || !m_hand.spread)
    hand.spreadKey = m_selection.key; // stays while the way changes
  if (by && !key) {
    emit message(tr("Choose the key whose sound is to lie over the whole deck first."), true);
    return;
  }
  const Key* under = findKey(project(), hand.spreadKey);
  if (by == SpreadBy::Length && under && !under->gate && !under->loop.on) {
    edit(tr("Hold a key"), withKeyChanged(project(), under->id, [](Key& k) { k.gate = true; }));
    emit message(tr("%1 is now held, so that its lengths count.")
                     .arg(QString::fromStdString(nameOf(project(), *under))),
                 false);
  }
  setHand(hand);
}

const Key* Session::keyUnder(Row row, int column) const {
  if (m_hand.spread)
    if (const Key* key = findKey(project(), m_hand.spreadKey)) return key;
  return keyAt(project(), row, column, m_selection.page);
}

void Session::sendStrike(Id id, const HandHit& hit, std::uint32_t touch) {
  const Key* key = findKey(project(), id);
  Engine::Command c{Engine::Command::Kind::Strike};
  c.key = id;
  c.touch = touch;
  c.velocity = float(std::clamp(hit.velocity, 0.02, 1.0));
  c.tune = float(ratioOf(hit.tune));
  c.from = float(hit.start);
  c.bright = float(hit.bright);
  if (key) c.hold = holdOf(*key, hit);
  if (m_hand.roll) c.roll = {m_hand.rollBeats, float(m_hand.swell), float(m_hand.climb)};
  c.when = steadyNow();
  m_engine.send(c);
}

std::int64_t Session::holdOf(const Key& key, const HandHit& hit) const {
  const int at = hit.length > 0 && m_score ? m_score->patchOf(key.id) : -1;
  if (at < 0) return 0;
  const Patch& patch = m_score->patches[std::size_t(at)];
  return std::max<std::int64_t>(
      240, toWhole<std::int64_t>(hit.length * double(patch.end - patch.start) / patch.step));
}

Id Session::press(const Press& press) {
  const Key* key = keyUnder(press.row, press.column);
  if (!key) return 0;
  m_touched[press.touch] = key->id;
  if (m_hand.erase) {
    Engine::Command c{Engine::Command::Kind::Erase};
    c.key = key->id;
    c.on = true;
    m_engine.send(c);
    m_erasing[key->id] = heardNow();
    return key->id;
  }
  const double velocity =
      press.velocity > 0 ? press.velocity : m_softHand.next(m_hand.velocity, m_hand.soft);
  HandHit hit;
  hit.velocity = velocity;
  if (m_hand.spread)
    hit = spreadHit(*m_hand.spread, int(press.row), press.column, velocity, project().key,
                    rootOf(project(), *key));
  sendStrike(key->id, hit, press.touch);
  return key->id;
}

void Session::lift(std::uint32_t touch) {
  const Id key = m_touched.take(touch);
  if (key == 0) return;
  if (m_erasing.contains(key)) {
    eraseOn();
    m_erasing.remove(key);
    m_history.settle();
    Engine::Command c{Engine::Command::Kind::Erase};
    c.key = key;
    m_engine.send(c);
    return;
  }
  Engine::Command c{Engine::Command::Kind::Release};
  c.key = key;
  c.touch = touch;
  c.when = steadyNow();
  m_engine.send(c);
}

void Session::pressHarder(std::uint32_t touch, double velocity) {
  Engine::Command c{Engine::Command::Kind::Press};
  c.touch = touch;
  c.velocity = float(std::clamp(velocity, 0.02, 1.0));
  m_engine.send(c);
}

void Session::strike(Id key, double velocity) {
  HandHit hit;
  hit.velocity = velocity;
  sendStrike(key, hit, 0);
}

void Session::release(Id key) {
  Engine::Command c{Engine::Command::Kind::Release};
  c.key = key;
  c.when = steadyNow();
  m_engine.send(c);
}

void Session::hear(Id key, double velocity, Semitones tune) {
  Engine::Command c{Engine::Command::Kind::Strike};
  c.key = key;
  c.on = true;
  c.velocity = float(std::clamp(velocity, 0.02, 1.0));
  c.tune = float(ratioOf(tune));
  c.hold = toWhole<std::int64_t>(kEngineRate.value);
  m_engine.send(c);
}

} // namespace tuvvo
