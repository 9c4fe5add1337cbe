#include "shell/tour.h"

namespace tuvvo {

Tour::Tour(const Uses& uses) : m_document(uses.document) {
  connect(&uses.auditions, &Auditions::changed, this, [this, &auditions = uses.auditions] {
    finish(Step::HearSource, auditions.heard().sounding);
  });
  connect(&uses.player, &Player::struck, this, [this](const Engine::Report& report) {
    const Key* key = findKey(m_document.project(), report.key);
    finish(Step::PlaySlices, key && key->row == Row::Cuts);
  });
  connect(&uses.recorder, &Recorder::takeChanged, this, [this, &recorder = uses.recorder] {
    finish(Step::KeepPlayed, !recorder.caught().rounds.empty() || !recorder.timing().parts.empty());
  });
  connect(&uses.document, &Document::changed, this,
          [this] { finish(Step::SetHit, m_document.project().patterns != m_before); });
  connect(&uses.document, &Document::replaced, this,
          [this] { m_before = m_document.project().patterns; });
  connect(&uses.transport, &Transport::changed, this, [this, &transport = uses.transport] {
    finish(Step::PlaySong, transport.playing() && transport.plays() == Plays::Song);
  });
}

void Tour::begin() {
  m_running = true;
  beginStep(Step::HearSource);
}

void Tour::end() {
  m_running = false;
  emit changed();
}

void Tour::next() {
  if (int(m_step) + 1 < kSteps)
    beginStep(Step(int(m_step) + 1));
  else
    end();
}

void Tour::beginStep(Step step) {
  m_step = step;
  m_done = false;
  m_before = m_document.project().patterns;
  emit changed();
}

void Tour::finish(Step step, bool happened) {
  if (!m_running || m_step != step || m_done || !happened) return;
  m_done = true;
  emit changed();
}

} // namespace tuvvo
