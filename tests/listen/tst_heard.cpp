// What is heard in sounds of every sort is what was heard: drawn drums, chords and tones with known
// faults. Other tests say how much of it is right.
#include "formats/analysis_json.h"
#include "kept.h"
#include "listen/analyse.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate = 44100;
constexpr double kShare =
    0.01; ///< by which confidences may differ: a rounding moves some by a third of it

Samples silence(double seconds) { return Samples(std::size_t(seconds * kRate), 0.0f); }

/// A row of places: kick, snare and hat, one letter an eighth, '.' for none, 'x' for kick and hat.
Samples drums(double bpm, const std::string& row, int times, double swing = 0.5, double drift = 0) {
  const double eighth = 30 / bpm;
  const auto lasts = double(row.size()) * times * eighth;
  Samples out = silence(lasts * (1 + drift) + 0.2);
  for (std::size_t i = 0; i < row.size() * std::size_t(times); ++i) {
    double at = double(i) * eighth + (i % 2 ? (swing - 0.5) * 2 * eighth : 0);
    at *= 1 + drift * at / lasts;
    const char what = row[i % row.size()];
    if (what == 'k' || what == 'x') addHit(out, at, kRate, 58, 0.15);
    if (what == 's') addHit(out, at, kRate, 190, 1.0, 0.6);
    if (what == 'h' || what == 'x') addHat(out, at, kRate);
  }
  out.resize(std::size_t(lasts * (1 + drift) * kRate));
  return out;
}

/// Three notes of five partials for so many seconds each, over their root; `cents` off pitch.
Samples chords(const std::vector<std::array<int, 3>>& all, double each, double cents = 0,
               double wowHz = 0, double wowCents = 0) {
  Samples out = silence(double(all.size()) * each);
  for (std::size_t c = 0; c < all.size(); ++c)
    for (int note : {all[c][0], all[c][1], all[c][2], all[c][0] - 24})
      for (int partial = 1; partial <= 5; ++partial) {
        double phase = 0;
        for (std::size_t i = 0; i < std::size_t(each * kRate); ++i) {
          const double t = double(i) / kRate, whole = double(c) * each + t;
          const double off = cents + wowCents * std::sin(2 * M_PI * wowHz * whole);
          phase += 2 * M_PI * frequencyOf(note + off / 100).value * partial / kRate;
          out[std::size_t(double(c) * each * kRate) + i] += float(
              0.08 / partial * std::exp(-t * 0.8) * std::min(1.0, t / 0.005) * std::sin(phase));
        }
      }
  return out;
}

void add(Samples& to, const Samples& what, double atS, double gain = 1) {
  const auto at = std::size_t(atS * kRate);
  for (std::size_t i = 0; i < what.size() && at + i < to.size(); ++i)
    to[at + i] += float(gain) * what[i];
}

Samples noise(double seconds, double level) {
  Samples out = silence(seconds);
  Random random(11);
  for (float& v : out) v = float(level * random.bipolar());
  return out;
}

const std::vector<std::array<int, 3>> kTurn{{57, 60, 64}, {53, 57, 60}, {48, 52, 55}, {55, 59, 62}};
const std::vector<std::array<int, 3>> kMinor{
    {50, 53, 57}, {55, 58, 62}, {57, 61, 64}, {50, 53, 57}};

using Made = std::pair<const char*, Channels>;
std::vector<Made> sounds() {
  std::vector<Made> out;
  const auto one = [&](const char* name, Samples mono) {
    out.push_back({name, {std::move(mono)}});
  };
  one("a straight loop", drums(92, "xhshxhsh", 4));
  one("a fast loop", drums(171.3, "k.h.s.h.", 6));
  one("a swung loop", drums(84, "xhshkhsh", 4, 0.64));
  one("in threes", drums(132, "k.s.s.", 8));
  one("five to a bar", drums(120, "xhshxhshkh", 4));
  one("getting slower", drums(100, "xhshxhsh", 10, 0.5, 0.08));
  one("hats alone", drums(96, "hhhh", 8));
  one("chords", chords(kTurn, 1.6));
  one("chords off pitch", chords(kMinor, 1.5, 31));
  std::vector<std::array<int, 3>> longer;
  for (int i = 0; i < 4; ++i) longer.insert(longer.end(), kTurn.begin(), kTurn.end());
  one("chords on a warped disc", chords(longer, 1.9, -22, 0.55, 14));
  Samples song = chords(longer, 2.0);
  add(song, drums(120, "x.h.s.h.", 8), 0);
  one("chords, and drums for half of it", song);
  one("a bass note", chords({{{33, 33, 33}}}, 1.5));
  Samples snare = silence(0.4);
  addHit(snare, 0.01, kRate, 190, 1.0);
  one("a snare", snare);
  one("hiss", noise(6, 0.05));
  Samples hum = noise(8, 0.002);
  for (std::size_t i = 0; i < hum.size(); ++i)
    for (int partial : {1, 3})
      hum[i] += float(0.03 / partial * std::sin(2 * M_PI * 50 * partial * double(i) / kRate));
  add(hum, drums(92, "k.h.s.h.", 3), 0, 0.4);
  one("hum under drums", hum);
  Samples loud = drums(105, "xhshxhsh", 3);
  for (float& v : loud) v = std::clamp(v * 4, -1.0f, 1.0f);
  one("clipped", loud);
  Samples late = silence(12);
  add(late, drums(88, "xhshxhsh", 3), 1.3);
  one("after a silence", late);
  Samples roll = silence(4);
  for (int i = 0; i < 40; ++i) addHit(roll, 0.5 + i * 0.05, kRate, 190, 0.9, 0.3 + 0.01 * i);
  one("a roll", roll);
  Samples shifted = drums(110, "xhshxhsh", 4);
  for (float& v : shifted) v += 0.05f;
  one("off the middle", shifted);
  Samples left = drums(98, "k.s.k.s.", 4), right = left;
  add(right, chords(kTurn, 1.2), 0);
  out.push_back({"different sides", {left, right}});
  // Drawn ones: rows of drums and turns of chords as dice have them, alone and together.
  static const std::array names{"drawn 1", "drawn 2", "drawn 3", "drawn 4",
                                "drawn 5", "drawn 6", "drawn 7", "drawn 8"};
  for (std::size_t i = 0; i < names.size(); ++i) {
    Random dice(i * 13 + 6);
    const double bpm = 64 + 110 * dice.unit();
    std::string row;
    for (int k = 0; k < 8; ++k) row += "kx.hshh."[dice.next() % 8];
    Samples beat =
        drums(bpm, row, 4, dice.next() % 3 == 0 ? 0.62 : 0.5, dice.next() % 4 == 0 ? 0.03 : 0);
    std::vector<std::array<int, 3>> turn;
    for (int k = 0; k < 4; ++k) {
      const int root = 48 + int(dice.next() % 12), third = dice.next() % 2 ? 4 : 3;
      turn.push_back({root, root + third, root + 7});
    }
    Samples held = chords(turn, 120 / bpm, 60 * dice.unit() - 30);
    if (i % 3 == 0)
      one(names[i], beat);
    else if (i % 3 == 1)
      one(names[i], held);
    else {
      add(held, beat, 0, 0.8);
      Samples other = held;
      add(other, beat, 0.01, -0.3);
      out.push_back({names[i], {held, other}});
    }
  }
  return out;
}

} // namespace

class TestHeard : public QObject {
  Q_OBJECT
private slots:
  void theyAreHeardAsTheyWere() {
    KeptJson now = KeptJson::object();
    JobContext job;
    for (auto& [name, channels] : sounds())
      now[name] = toJson(analyse(Sound(std::move(channels), Hertz(kRate)), job));
    compareKept("hearings.json", now, kShare);
  }

  // A kept hearing is worth something only where the rounding of another processor changes nothing.
  void aRoundingChangesNothing() {
    JobContext job;
    for (auto& [name, channels] : sounds()) {
      Channels other = channels;
      Random random(3);
      for (auto& channel : other)
        for (float& v : channel) v *= float(1 + 2e-7 * random.bipolar());
      const auto a = toJson(analyse(Sound(std::move(channels), Hertz(kRate)), job)),
                 b = toJson(analyse(Sound(std::move(other), Hertz(kRate)), job));
      QCOMPARE(differences(a, b, name, kShare), QString());
    }
  }
};

QTEST_GUILESS_MAIN(TestHeard)
#include "tst_heard.moc"
