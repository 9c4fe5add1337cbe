#include "audio/prefetch.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

using namespace std::chrono_literals;

constexpr auto kPass = 10ms;
constexpr double kHeadS = 0.5;
constexpr std::int64_t kBehind = 600; ///< frames that an interpolation looks back
constexpr double kEngineRateHz = 48'000;
constexpr std::int64_t kLongAgo = -1'000'000;

std::int64_t nowMs() {
  return std::chrono::duration_cast<std::chrono::milliseconds>(
             std::chrono::steady_clock::now().time_since_epoch())
      .count();
}

std::span<const float> pieceOf(const Sound& sound, int channel, std::size_t piece) {
  const auto all = sound.channel(channel);
  const std::size_t from = piece * std::size_t(PrefetchedSound::kPiece);
  return all.subspan(from, std::min(all.size() - from, std::size_t(PrefetchedSound::kPiece)));
}

} // namespace

PrefetchedSound::PrefetchedSound(SoundPtr sound)
    : m_sound(std::move(sound)), m_frames(m_sound->frames().value),
      m_ready(std::size_t((m_frames + kPiece - 1) / kPiece)), m_wanted(m_ready.size(), kLongAgo),
      m_kept(m_ready.size(), false) {}

Prefetcher::Prefetcher() : m_thread([this] { run(); }) {}

Prefetcher::~Prefetcher() {
  {
    const std::lock_guard lock(m_mutex);
    m_ends = true;
  }
  m_wake.notify_all();
  m_thread.join();
  for (const auto& sound : m_sounds)
    for (std::size_t piece = 0; piece < sound->m_ready.size(); ++piece)
      if (sound->m_kept[piece])
        for (int c = 0; c < sound->m_sound->channels(); ++c)
          letGoOfSamples(pieceOf(*sound->m_sound, c, piece));
}

PrefetchedPtr Prefetcher::prefetched(const SoundPtr& sound) {
  if (!sound || !liesInFile(sound->channel(0))) return nullptr;
  const std::lock_guard lock(m_mutex);
  for (const auto& known : m_sounds)
    if (known->m_sound == sound) return known;
  m_sounds.push_back(std::make_shared<PrefetchedSound>(sound));
  m_wake.notify_all();
  return m_sounds.back();
}

void Prefetcher::keepHeads(std::vector<Head> heads) {
  const std::lock_guard lock(m_mutex);
  m_heads = std::move(heads);
}

void Prefetcher::run() {
  std::unique_lock lock(m_mutex);
  while (!m_ends) {
    if (m_sounds.empty()) {
      m_wake.wait(lock, [this] { return m_ends || !m_sounds.empty(); });
      continue;
    }
    const std::int64_t now = nowMs();
    markWanted(now);
    const Pieces pieces = missing(now);
    lock.unlock(); // reading may take a while
    fetch(pieces);
    lock.lock();
    touchWhatIsReady();
    letGo(now);
    if (pieces.empty() && !m_ends) m_wake.wait_for(lock, kPass);
  }
}

void Prefetcher::markWanted(std::int64_t now) {
  const auto want = [now](PrefetchedSound& sound, std::int64_t from, std::int64_t until) {
    const std::int64_t last = std::min(until, sound.m_frames - 1) / PrefetchedSound::kPiece;
    for (std::int64_t i = std::max<std::int64_t>(0, from) / PrefetchedSound::kPiece; i <= last; ++i)
      sound.m_wanted[std::size_t(i)] = now;
  };
  for (const Reader& reader : m_readers) {
    const PrefetchedSound* read = reader.sound.load(std::memory_order_acquire);
    const auto known = std::find_if(m_sounds.begin(), m_sounds.end(),
                                    [&](const auto& each) { return each.get() == read; });
    if (!read || known == m_sounds.end()) continue;
    const std::int64_t frame = reader.frame.load(std::memory_order_relaxed);
    const auto ahead =
        toWhole<std::int64_t>(kAheadS * kEngineRateHz *
                              std::clamp(reader.step.load(std::memory_order_relaxed), 0.1, 16.0));
    want(**known, frame - kBehind, frame + ahead);
    const std::int64_t loopStart = reader.loopStart.load(std::memory_order_relaxed),
                       loopEnd = reader.loopEnd.load(std::memory_order_relaxed);
    if (loopEnd > loopStart && frame + ahead > loopEnd)
      want(**known, loopStart - kBehind, loopStart + ahead);
  }
  std::size_t heads = 0;
  for (const Head& head : m_heads) {
    const auto count = toWhole<std::int64_t>(kHeadS * head.sound->m_sound->rate().value);
    heads += std::size_t(count / PrefetchedSound::kPiece + 2);
    if (heads > kMostHeads) break;
    want(*head.sound, head.frame - kBehind, head.frame + count);
  }
}

Prefetcher::Pieces Prefetcher::missing(std::int64_t now) const {
  Pieces out;
  for (const auto& sound : m_sounds)
    for (std::size_t piece = 0; piece < sound->m_wanted.size(); ++piece)
      if (sound->m_wanted[piece] == now &&
          sound->m_ready[piece].load(std::memory_order_relaxed) == 0)
        out.emplace_back(sound, piece);
  return out;
}

/// Brings pieces into memory and then says so.
void Prefetcher::fetch(const Pieces& pieces) {
  for (const auto& [sound, piece] : pieces) {
    if (!sound->m_kept[piece])
      for (int c = 0; c < sound->m_sound->channels(); ++c)
        keepSamples(pieceOf(*sound->m_sound, c, piece));
    sound->m_kept[piece] = true;
    sound->m_ready[piece].store(1, std::memory_order_release);
  }
}

/// What may not be locked, the system takes when it was not used for long.
void Prefetcher::touchWhatIsReady() const {
  for (const auto& sound : m_sounds)
    for (std::size_t piece = 0; piece < sound->m_ready.size(); ++piece) {
      if (sound->m_ready[piece].load(std::memory_order_relaxed) == 0) continue;
      for (int c = 0; c < sound->m_sound->channels(); ++c) {
        const auto samples = pieceOf(*sound->m_sound, c, piece);
        for (std::size_t at = 0; at < samples.size(); at += 1024) { // a page
          const float touched = *static_cast<const volatile float*>(&samples[at]);
          (void)touched;
        }
      }
    }
}

/// What nobody wants any more is said to be away, and let go of when whoever saw it there has read
/// it.
void Prefetcher::letGo(std::int64_t now) {
  for (const auto& sound : m_sounds)
    for (std::size_t piece = 0; piece < sound->m_wanted.size(); ++piece) {
      const std::int64_t idle = now - sound->m_wanted[piece];
      if (!sound->m_kept[piece] || idle < kGraceMs) continue;
      sound->m_ready[piece].store(0, std::memory_order_release);
      if (idle < std::int64_t(2) * kGraceMs) continue;
      for (int c = 0; c < sound->m_sound->channels(); ++c)
        letGoOfSamples(pieceOf(*sound->m_sound, c, piece));
      sound->m_kept[piece] = false;
    }
  std::erase_if(m_sounds, [](const PrefetchedPtr& sound) {
    return sound.use_count() == 1 &&
           std::find(sound->m_kept.begin(), sound->m_kept.end(), true) == sound->m_kept.end();
  });
}

} // namespace tuvvo
