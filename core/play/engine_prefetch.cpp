// Long sounds: what may be struck is kept, and what sounds is read ahead.
#include "base/convert.h"
#include "play/engine.h"

#include <algorithm>

namespace tuvvo {

/// On the owner's thread: the places where something of a score may begin.
void Engine::prefetch(ScoreSlot& slot) {
  const Score& score = *slot.score;
  std::vector<Prefetcher::Head> heads;
  for (std::size_t i = 0; i < score.patches.size(); ++i) {
    const Patch& patch = score.patches[i];
    PrefetchedPtr sound = m_prefetcher->prefetched(patch.sound);
    if (!sound) continue;
    slot.prefetched.resize(score.patches.size());
    heads.push_back({sound, patch.start.value});
    slot.prefetched[i] = std::move(sound);
  }
  if (!slot.prefetched.empty())
    for (const auto& event : score.events) {
      const Patch& patch = score.patches[std::size_t(event.patch)];
      const PrefetchedPtr& sound = slot.prefetched[std::size_t(event.patch)];
      if (sound && event.from > 0)
        heads.push_back({sound, patch.start.value + toWhole<std::int64_t>(
                                                        double(event.from) *
                                                        double((patch.end - patch.start).value))});
    }
  slot.audition = m_prefetcher->prefetched(score.audition.sound);
  if (slot.audition) heads.push_back({slot.audition, 0});
  m_prefetcher->keepHeads(std::move(heads));
}

/// On the audio thread: where voices and auditions read now.
void Engine::tellWhatIsRead() {
  const auto tell = [&](std::size_t which, const PrefetchedSound* sound, double place, double step,
                        Frames loopStart, Frames loopEnd) {
    Prefetcher::Reader& reader = m_prefetcher->reader(which);
    if (!sound && !reader.sound.load(std::memory_order_relaxed)) return;
    reader.frame.store(toWhole<std::int64_t>(place), std::memory_order_relaxed);
    reader.step.store(step, std::memory_order_relaxed);
    reader.loopStart.store(loopStart.value, std::memory_order_relaxed);
    reader.loopEnd.store(loopEnd.value, std::memory_order_relaxed);
    reader.sound.store(sound, std::memory_order_release);
  };
  for (std::size_t i = 0; i < m_voices.size(); ++i) {
    const Voice& voice = m_voices[i];
    const bool reads = voice.sounding() && voice.prefetched();
    tell(i, reads ? voice.prefetched() : nullptr, reads ? voice.place() : 0,
         reads ? voice.step() : 1, reads ? voice.patch()->loopStart : Frames(0),
         reads ? voice.patch()->loopEnd : Frames(0));
  }
  for (std::size_t i = 0; i < m_auditions.size(); ++i) {
    const Auditioned& each = m_auditions[i];
    const ScoreSlot* slot = each.slot >= 0 ? m_slots[std::size_t(each.slot)] : nullptr;
    const bool reads = slot && slot->audition;
    const Frames end =
        reads && slot->score->audition.loops ? slot->score->audition.sound->frames() : Frames(0);
    tell(kVoices + i, reads ? slot->audition.get() : nullptr, double(each.at.value), 1, Frames(0),
         end);
  }
}

} // namespace tuvvo
