// Hits: from the score, from hands, and those that a held note repeats.
#include "base/convert.h"
#include "play/engine.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// A finger of its own for every key that is struck without one.
std::uint32_t touchOf(const Engine::Command& command) {
  return command.touch != 0 ? command.touch : command.key | 0x80000000u;
}

constexpr double kTooSoon = 0.35; ///< of a roll's step: a line that near was meant by the strike

} // namespace

/// Another hit of a mono key: bends what is held over, or ends what sounds. @returns whether it
/// bent; else the start knows where its glide begins
bool Engine::bendsOrEnds(const ScoreEvent& event, std::uint32_t touch, Voice::Start& start) {
  const Patch& first = m_slots[std::size_t(m_current)]->score->patches[std::size_t(event.patch)];
  bool bent = false;
  for (auto& voice : m_voices) {
    if (!voice.sounding() || voice.ending() || voice.patch()->key != first.key) continue;
    if (first.legato && first.gate && !voice.released()) {
      voice.bend(event.tune, start.glide, event.hold, touch);
      bent = true;
    } else {
      start.tuneFrom = voice.tune();
      voice.cutOff();
    }
  }
  return bent;
}

void Engine::strike(const ScoreEvent& event, std::uint32_t touch, std::uint32_t turn,
                    EngineFrames skip) {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const Patch& first = score.patches[std::size_t(event.patch)];
  const BusPlan& bus = graph().plan().buses[std::size_t(first.bus)];
  const bool heard = !first.silent && !bus.muted;
  if (heard && first.choke != 0)
    for (auto& voice : m_voices)
      if (voice.sounding() && voice.patch()->choke == first.choke &&
          !(first.mono && voice.patch()->key == first.key))
        voice.cutOff();
  Voice::Start start;
  if (heard && bus.kind == BusPlan::Kind::Part)
    graph().struck(bus.which, m_clock.value - m_offset, m_offset);
  start.glide = event.glide.value >= 0 ? event.glide : first.glide;
  if (first.mono && bendsOrEnds(event, touch, start)) return;
  if (start.tuneFrom == 0 && event.glideFrom != 1)
    start.tuneFrom = event.tune * double(event.glideFrom);
  start.gain = event.gain;
  start.tune = event.tune;
  start.from = double(event.from);
  start.pan = event.pan;
  start.bright = double(event.bright);
  start.hold = event.hold;
  start.touch = touch;
  start.owner = m_current;
  if (start.gain <= 0 || bus.closed) return;
  std::array<int, kMostLayers> chosen{};
  const int count = layersOf(score, event, turn, chosen);
  for (int i = 0; i < count; ++i) {
    const auto place = std::size_t(chosen[std::size_t(i)]);
    start.patch = &score.patches[place];
    const auto& prefetched = m_slots[std::size_t(m_current)]->prefetched;
    start.prefetched = prefetched.empty() ? nullptr : prefetched[place].get();
    // What swells into the hit begins before it, and the others wait for the hit.
    const EngineFrames late =
        start.patch->delay +
        EngineFrames(toNearest<std::int64_t>((first.lead - start.patch->lead) / event.tune));
    start.wait = std::max(EngineFrames(0), late - skip);
    start.skip = std::max(EngineFrames(0), skip - late);
    startVoice(start);
  }
}

void Engine::startVoice(const Voice::Start& start) {
  if (!start.patch->sound || start.patch->end <= start.patch->start) return;
  int free = -1, sounding = 0, oldest = -1;
  const auto unheard = [&](int i) {
    return m_voices[std::size_t(i)].silent() || graph().bus(m_busOf[std::size_t(i)]).silent();
  };
  const auto before = [&](int a, int b) { // what is muted makes room first
    if (unheard(a) != unheard(b)) return unheard(a);
    return m_age - m_ages[std::size_t(a)] > m_age - m_ages[std::size_t(b)];
  };
  for (int i = 0; i < kVoices; ++i) {
    const auto& voice = m_voices[std::size_t(i)];
    if (!voice.sounding())
      free = i;
    else if (!voice.ending()) {
      ++sounding;
      if (oldest < 0 || before(i, oldest)) oldest = i;
    }
  }
  // The oldest is faded a little before there is no room, so that nothing clicks.
  if (sounding >= kVoices - kSpareVoices && oldest >= 0) m_voices[std::size_t(oldest)].cutOff();
  if (free < 0) return;
  m_voices[std::size_t(free)].start(start, m_bank);
  m_busOf[std::size_t(free)] = start.patch->bus;
  m_ages[std::size_t(free)] = ++m_age;
  ++m_slots[std::size_t(m_current)]->voices;
}

/// One hit of a note, as hard and as high as its roll has come.
void Engine::play(const HeldNote& note) {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const Command& struck = note.struck;
  const int patch = score.patchAt(struck.key, m_position);
  if (patch < 0) return;
  const double beats = beatsHeld(note);
  const float velocity =
      std::clamp(struck.velocity + float(beats) * struck.roll.velocityPerBeat, 0.02f, 1.0f);
  ScoreEvent event;
  event.patch = patch;
  event.gain = gainOfVelocity(double(velocity));
  event.tune = double(struck.tune) * std::exp2(beats * double(struck.roll.tunePerBeat) / 12);
  event.from = struck.from;
  event.bright = struck.bright;
  event.hold = struck.hold;
  strike(event, touchOf(struck), m_liveTurns[std::size_t(patch) % kMostPatches]++, {});
  if (struck.on) return; // heard in passing
  Report report = reportOf(Report::Kind::Struck, struck.key);
  report.velocity = velocity;
  report.touch = touchOf(struck);
  report.tune = float(event.tune);
  report.from = struck.from;
  report.bright = struck.bright;
  report.hold = struck.hold;
  report.when = m_now;
  const EngineFrames ago = agoOf(struck.when);
  if (m_clock == note.began && ago.value > 0) { // by hand, a little before this block
    report.when = struck.when;
    report.frame -= ago;
  }
  m_reports.push(report);
}

/// Frames since a time, as far as a block of the largest size.
EngineFrames Engine::agoOf(Nanoseconds when) const {
  if (when.value <= 0 || m_now <= when) return {};
  const double ago = double((m_now - when).value) * kEngineRate.value / 1e9;
  return std::min(EngineFrames(8192), EngineFrames(toNearest<std::int64_t>(ago)));
}

/// Where the music is as commands are taken.
Engine::Report Engine::reportOf(Report::Kind kind, Id key) const {
  Report report{};
  report.kind = kind;
  report.key = key;
  report.frame = m_position - EngineFrames(m_ahead);
  report.pass = m_pass;
  report.playing = m_playing;
  return report;
}

void Engine::handleHeldNotes(const Command& command) {
  using Kind = Command::Kind;
  switch (command.kind) {
  case Kind::Strike: {
    if (command.on) {
      HeldNote passing{command, false, 0, m_clock};
      anchorRoll(passing);
      play(passing);
      break;
    }
    // A finger that strikes again has let go; without a free note the one held longest lets go.
    HeldNote* note = nullptr;
    for (auto& each : m_heldNotes)
      if (each.held && touchOf(each.struck) == touchOf(command)) note = &each;
    for (auto& each : m_heldNotes)
      if (!note && !each.held) note = &each;
    if (!note)
      note = &*std::min_element(
          m_heldNotes.begin(), m_heldNotes.end(),
          [](const HeldNote& a, const HeldNote& b) { return a.order < b.order; });
    *note = {command, true, ++m_heldOrder, m_clock};
    anchorRoll(*note);
    play(*note);
    if (command.roll.beats > 0) alignRoll(*note, kTooSoon);
    break;
  }
  case Kind::Release:
    letGo(command);
    break;
  case Kind::Press:
    for (auto& note : m_heldNotes)
      if (note.held && touchOf(note.struck) == touchOf(command)) {
        note.struck.velocity = command.velocity;
        note.struck.roll.velocityPerBeat = 0;
      }
    break;
  case Kind::Erase:
    for (Id& erased : m_erased)
      if (command.on ? erased == 0 || erased == command.key : erased == command.key) {
        erased = command.on ? command.key : 0;
        if (command.on) break;
      }
    break;
  default:
    break;
  }
}

void Engine::letGo(const Command& command) {
  const std::uint32_t touch = touchOf(command);
  Id key = command.key;
  for (auto& note : m_heldNotes)
    if (note.held && touchOf(note.struck) == touch) {
      note.held = false;
      key = note.struck.key;
    }
  // A mono key goes back to the finger that is still down.
  const HeldNote* still = nullptr;
  for (const auto& note : m_heldNotes)
    if (note.held && note.struck.key == key && (!still || note.order > still->order)) still = &note;
  for (auto& voice : m_voices) {
    if (!voice.sounding() || voice.touch() != touch) continue;
    if (still && voice.patch()->legato && voice.patch()->gate)
      voice.bend(double(still->struck.tune), voice.patch()->glide, still->struck.hold,
                 touchOf(still->struck));
    else
      voice.letGo();
  }
  Report report = reportOf(Report::Kind::Released, key);
  report.touch = touch;
  report.when = m_now;
  if (const EngineFrames ago = agoOf(command.when); ago.value > 0) {
    report.when = command.when;
    report.frame -= ago;
  }
  m_reports.push(report);
}

// ---- rolls --------------------------------------------------------------------------------------

namespace {

constexpr double kShortestRoll = 0.01; ///< beats

double stepOf(const Engine::Command& struck) { return std::max(kShortestRoll, struck.roll.beats); }

} // namespace

/// Beats since a note was struck, by the tempo that went by.
double Engine::beatsHeld(const HeldNote& note) const {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  if (m_playing) return note.beats + beatsGoneBy() - note.anchorBeats;
  return note.beats +
         double((m_clock - note.anchorClock).value) / score.framesPerBeatAt(m_position);
}

/// Beats of the music since it started, over all rounds.
double Engine::beatsGoneBy() const {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  return score.beatsAt(m_position) +
         double(m_pass) * (score.beatsAt(score.length) - score.beatsAt(score.loopStart));
}

void Engine::anchorRoll(HeldNote& note) {
  note.anchorClock = m_clock;
  note.anchorBeats = m_playing ? beatsGoneBy() : 0;
}

/// Before the music is moved: what has gone by is kept.
void Engine::settleRolls() {
  if (m_current < 0) return;
  for (auto& note : m_heldNotes)
    if (note.held) {
      note.beats = beatsHeld(note);
      anchorRoll(note);
    }
}

/// After the music was moved.
void Engine::anchorRolls() {
  for (auto& note : m_heldNotes)
    if (note.held) anchorRoll(note);
  alignRolls();
}

/// The next line of the beat, or a step from now where nothing plays.
void Engine::alignRoll(HeldNote& note, double margin) {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const double step = stepOf(note.struck);
  if (m_playing)
    note.line = toWhole<std::int64_t>(std::ceil(score.beatsAt(m_position) / step + margin - 1e-9));
  else
    note.next = m_clock + framesOfStep(note);
}

/// At the tempo of where the music stands.
EngineFrames Engine::framesOfStep(const HeldNote& note) const {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const double step = stepOf(note.struck) * score.framesPerBeatAt(m_position);
  return std::max(EngineFrames(64), EngineFrames(toNearest<std::int64_t>(step)));
}

void Engine::alignRolls() {
  for (auto& note : m_heldNotes)
    if (note.held && note.struck.roll.beats > 0) alignRoll(note, 0);
}

/// Where the next hit of a roll falls, from here on.
EngineFrames Engine::untilHit(const HeldNote& note) const {
  if (!m_playing) return note.next - m_clock;
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  return score.frameAt(double(note.line) * stepOf(note.struck)) - m_position;
}

EngineFrames Engine::untilRoll() const {
  EngineFrames until(std::numeric_limits<std::int64_t>::max());
  if (m_current < 0) return until;
  for (const auto& note : m_heldNotes)
    if (note.held && note.struck.roll.beats > 0)
      until = std::min(until, std::max(EngineFrames(1), untilHit(note)));
  return until;
}

void Engine::rollOn() {
  if (m_current < 0) return;
  for (auto& note : m_heldNotes) {
    if (!note.held || note.struck.roll.beats <= 0) continue;
    if (untilHit(note).value > 0 || m_clock == note.began) continue;
    for (auto& voice : m_voices) // each hit is held until the next
      if (voice.sounding() && voice.touch() == touchOf(note.struck)) voice.letGo();
    play(note);
    if (m_playing)
      ++note.line;
    else
      note.next += framesOfStep(note);
  }
}

} // namespace tuvvo
