// Treatments that put pieces of a sound elsewhere, or run it at a changing speed.
#include "audio/sinc_bank.h"
#include "base/convert.h"
#include "base/random.h"
#include "shape/treat_parts.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>

namespace tuvvo {

namespace {

constexpr double kGrainFadeInS = 0.001, kGrainFadeOutS = 0.002;

std::size_t framesIn(double frames) {
  return toWhole<std::size_t>(std::max(1.0, std::round(frames)));
}

/// Any place of a sound at any speed.
class SoundReader {
public:
  explicit SoundReader(const Channels& sound) {
    for (const auto& channel : sound) {
      Samples padded(channel.size() + 2 * kPad, 0.0f);
      std::copy(channel.begin(), channel.end(), padded.begin() + kPad);
      m_padded.push_back(std::move(padded));
    }
  }
  /// Silence outside the sound.
  void read(double place, double step, float& left, float& right) const {
    left = right = 0;
    const auto& kernel = m_bank.forStep(std::max(step, 1e-6));
    const double at = place + kPad;
    if (at < kernel.taps || at + kernel.taps >= double(m_padded[0].size())) return;
    SincBank::run(kernel, {m_padded[0].data(), m_padded[1].data(), at, 0}, 0, 1, &left, &right);
  }

private:
  static constexpr std::ptrdiff_t kPad = 1024; ///< the widest kernel and more
  SincBank m_bank{SincBank::Make::AsNeeded};
  Channels m_padded;
};

/// Pieces of a sound laid end to end.
class PieceRow {
public:
  PieceRow(const Channels& sound, const TreatFrame& frame)
      : m_sound(sound), m_in(framesIn(kGrainFadeInS * frame.rate.value)),
        m_out(framesIn(kGrainFadeOutS * frame.rate.value)) {}

  struct Piece {
    std::size_t from, frames;
    bool reversed = false;
    double gain = 1;
  };
  /// Faded where it does not go on from the piece before it.
  void add(const Piece& piece) {
    const bool goesOn = m_any && !m_last.reversed && !piece.reversed &&
                        m_last.from + m_last.frames == piece.from && m_last.gain == piece.gain;
    if (m_any && !goesOn) fadeEnd();
    for (std::size_t c = 0; c < 2; ++c) {
      auto& out = m_result[c];
      const std::size_t start = out.size();
      out.resize(start + piece.frames, 0.0f);
      for (std::size_t i = 0; i < piece.frames; ++i) {
        const std::size_t at = piece.from + (piece.reversed ? piece.frames - 1 - i : i);
        if (at < m_sound[c].size()) out[start + i] = float(piece.gain) * m_sound[c][at];
      }
      const bool begins = !m_any && piece.from == 0 && !piece.reversed;
      if (!goesOn && !begins)
        for (std::size_t i = 0; i < std::min(m_in, piece.frames); ++i)
          out[start + i] *= float((double(i) + 0.5) / double(m_in));
    }
    m_last = piece;
    m_any = true;
  }
  Channels take() {
    if (m_last.reversed || m_last.from + m_last.frames < m_sound[0].size()) fadeEnd();
    return std::move(m_result);
  }

private:
  void fadeEnd() {
    for (auto& out : m_result) {
      const std::size_t n = std::min({m_out, m_last.frames, out.size()});
      for (std::size_t i = 0; i < n; ++i)
        out[out.size() - 1 - i] *= float((double(i) + 0.5) / double(m_out));
    }
  }
  const Channels& m_sound;
  Channels m_result{2};
  std::size_t m_in, m_out;
  Piece m_last{0, 0};
  bool m_any = false;
};

/// The places where divisions begin, and the sound's end.
std::vector<std::size_t> divided(std::size_t frames, double beats, const TreatFrame& frame) {
  std::vector<std::size_t> places;
  const double each = std::max(64.0, frame.framesOf(beats));
  for (std::size_t i = 0; i == 0 || double(i) * each < double(frames) - 1; ++i)
    places.push_back(toNearest<std::size_t>(double(i) * each));
  places.push_back(frames);
  return places;
}

} // namespace

void alternate(Channels& sound, const treat::Alternate& what, const TreatFrame& frame) {
  const auto places = divided(sound[0].size(), what.everyBeats, frame);
  PieceRow row(sound, frame);
  for (std::size_t i = 0; i + 1 < places.size(); ++i)
    row.add({places[i], places[i + 1] - places[i],
             (i % 2 == 0) == (what.first == treat::Alternate::First::Reversed)});
  sound = row.take();
}

namespace {

/// Where a chop cuts: no more than kMostPieces, the rest stays together.
std::vector<std::size_t> chopped(std::size_t frames, const treat::Chop& chop,
                                 const TreatFrame& frame) {
  auto places = divided(frames, chop.divisionBeats, frame);
  if (places.size() - 1 > kMostPieces) {
    places[kMostPieces] = places.back();
    places.resize(kMostPieces + 1);
  }
  return places;
}

std::vector<int> orderOf(const treat::Chop& chop, int pieces) {
  std::vector<int> order = chop.order;
  std::erase_if(order, [pieces](int piece) { return piece >= pieces; });
  if (!chop.order.empty()) return order;
  order.resize(std::size_t(pieces));
  std::iota(order.begin(), order.end(), 0);
  Random random(std::uint64_t(chop.seed));
  for (int i = pieces - 1; i > 0; --i)
    std::swap(order[std::size_t(i)], order[toWhole<std::size_t>(random.unit() * (i + 1))]);
  if (std::is_sorted(order.begin(), order.end()))
    std::rotate(order.begin(), order.begin() + std::ptrdiff_t(order.size() / 2), order.end());
  return order;
}

/// The pieces of a chop in their order.
std::vector<PieceRow::Piece> piecesOf(std::size_t frames, const treat::Chop& chop,
                                      const TreatFrame& frame) {
  const auto places = chopped(frames, chop, frame);
  std::vector<PieceRow::Piece> pieces;
  for (int piece : orderOf(chop, int(places.size()) - 1)) {
    const auto p = std::size_t(piece);
    pieces.push_back({places[p], places[p + 1] - places[p]});
  }
  return pieces;
}

} // namespace

std::vector<int> chopOrder(const treat::Chop& chop, std::size_t frames, const TreatFrame& frame) {
  return orderOf(chop, int(chopped(frames, chop, frame).size()) - 1);
}

std::size_t choppedFrames(std::size_t frames, const treat::Chop& what, const TreatFrame& frame) {
  std::size_t all = 0;
  for (const PieceRow::Piece& piece : piecesOf(frames, what, frame)) all += piece.frames;
  return all;
}

void chop(Channels& sound, const treat::Chop& what, const TreatFrame& frame) {
  PieceRow row(sound, frame);
  for (const PieceRow::Piece& piece : piecesOf(sound[0].size(), what, frame)) row.add(piece);
  sound = row.take();
}

std::size_t stuttered(const treat::Stutter& what, const TreatFrame& frame) {
  return framesIn(frame.framesOf(what.divisionBeats) * what.count);
}

void stutter(Channels& sound, const treat::Stutter& what, const TreatFrame& frame) {
  const int count = what.count;
  const double each = frame.framesOf(what.divisionBeats);
  const double ramp = what.ramp.value, pitch = what.pitch.value;
  const std::size_t begun = stuttered(what, frame), frames = std::max(begun, sound[0].size());
  const SoundReader reader(sound);
  Channels out(2, Samples(frames, 0.0f));
  const double fadeIn = kGrainFadeInS * frame.rate.value,
               fadeOut = kGrainFadeOutS * frame.rate.value;
  for (int n = 0; n < count; ++n) {
    const double part = double(n) / double(count - 1);
    // A ramp that rises begins low, one that falls ends low.
    const double gain = gainOf(Decibels(ramp > 0 ? ramp * (part - 1) : ramp * part));
    const double step = ratioOf(Semitones(pitch * part));
    const auto from = toNearest<std::size_t>(each * n), to = toNearest<std::size_t>(each * (n + 1));
    for (std::size_t i = from; i < to; ++i) {
      const double in = double(i - from), left = double(to - i);
      double g = gain;
      if (n > 0) g *= std::min(1.0, (in + 0.5) / fadeIn);
      g *= std::min(1.0, (left - 0.5) / fadeOut);
      float l = 0, r = 0;
      reader.read(in * step, step, l, r);
      out[0][i] = float(g * double(l));
      out[1][i] = float(g * double(r));
    }
  }
  for (std::size_t c = 0; c < 2; ++c)
    for (std::size_t i = begun; i < sound[c].size(); ++i)
      out[c][i] = sound[c][i] * float(std::min(1.0, (double(i - begun) + 0.5) / fadeIn));
  sound = std::move(out);
}

namespace {
/// Plays frames of a result from changing places of the sound; standing still is no tone, so the
/// end that does is faded.
/// @param way  from a frame's share of the way, 0 standing still to 1 at full speed, to the place
void runAlong(Channels& sound, std::size_t from, std::size_t to, const TreatFrame& frame,
              double power, const std::function<double(std::size_t)>& share,
              const std::function<double(double)>& way) {
  const SoundReader reader(sound);
  const double fade = 0.01 * frame.rate.value, all = double(to - from);
  for (std::size_t i = from; i < to; ++i) {
    const double u = share(i);
    float l = 0, r = 0;
    reader.read(way(std::pow(u, power)), std::pow(u, power - 1), l, r);
    const auto gain = float(std::min(1.0, u * all / fade));
    sound[0][i] = l * gain;
    sound[1][i] = r * gain;
  }
}
} // namespace

void slowDown(Channels& sound, const treat::SlowDown& what, const TreatFrame& frame) {
  const std::size_t frames = sound[0].size();
  const double over = std::min(double(frames), frame.framesOf(what.beats));
  const double power = what.curve + 1, start = double(frames) - over;
  runAlong(
      sound, toWhole<std::size_t>(start), frames, frame, power,
      [&](std::size_t i) { return std::clamp(1 - (double(i) - start) / over, 0.0, 1.0); },
      [&](double gone) { return start + over / power * (1 - gone); });
}

void startUp(Channels& sound, const treat::StartUp& what, const TreatFrame& frame) {
  const double over = std::min(double(sound[0].size()), frame.framesOf(what.beats));
  const double power = what.curve + 1;
  runAlong(
      sound, 0, toWhole<std::size_t>(over), frame, power,
      [&](std::size_t i) { return double(i) / over; },
      [&](double gone) { return over - over / power * (1 - gone); });
}

} // namespace tuvvo
