// Layers that cancel, against pairs whose phases are known.
#include "base/random.h"
#include "model/edits.h"
#include "notes/notes.h"
#include "play/layer_phase.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A drum: a sine that dies away from a phase on, and a bright click that has no lows to speak of.
Samples drum(double hz, double phase, double level, double click, std::uint64_t seed) {
  Random random(seed);
  Samples out(24000);
  double last = 0, before = 0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = double(i) / 48000, noise = random.bipolar();
    out[i] = float(level * std::exp(-t / 0.12) * std::sin(2 * M_PI * hz * t + phase) +
                   click * std::exp(-t / 0.004) * (noise - 2 * last + before) / 4);
    before = last;
    last = noise;
  }
  return out;
}

struct Two {
  Project project;
  Id key = 0;
  Two(Samples first, Samples second, const LayerPlay& play = {}) {
    Id a = 0, b = 0;
    project = withSource({}, sourceOf(makeSound(std::move(first)), "low"), &a);
    project = withSource(std::move(project), sourceOf(makeSound(std::move(second)), "knock"), &b);
    project = withKeySound(std::move(project), Row::Floor, 0, 0, {a, 0}, "kick", &key);
    project = withLayer(std::move(project), key, {{b, 0}, play});
  }
  [[nodiscard]] std::optional<LayersCancel> found() const {
    return layersCancel(project, *findKey(project, key));
  }
};

} // namespace

class TestLayerPhase : public QObject {
  Q_OBJECT
private slots:
  // By construction: two tones of one pitch whose phases are nearly opposite take from each other,
  // those nearly in phase add up, and tones a fourth and more apart do neither. Sums of powers of
  // two sines: a² + b² + 2ab·cos(phase). Phases near the border (2 dB) are left out.
  void fiftyPairsAreJudged() {
    Random random(11);
    int right = 0, mended = 0, cancel = 0;
    QString wrong;
    for (int pair = 0; pair < 50; ++pair) {
      const double hz = 42 + 70 * random.unit(),
                   level = 0.4 * std::pow(10, -4 * random.unit() / 20);
      const double start = 2 * M_PI * random.unit(), turn = random.bipolar();
      const int kind = pair % 5; // opposite twice, opposite by a delay, in phase, another pitch
      LayerPlay play;
      double phase = start, other = hz;
      if (kind < 2) phase += M_PI + turn * M_PI / 4;
      if (kind == 2) play.delay = Milliseconds(500 / hz * (1 + 0.2 * turn));
      if (kind == 3) phase += turn * M_PI / 3;
      if (kind == 4) other = hz * (1.34 + 0.5 * random.unit());
      const Two two(drum(hz, start, 0.4, 0.1, 3), drum(other, phase, level, 0.3, 4), play);
      const auto found = two.found();
      const bool wanted = kind < 3;
      cancel += wanted;
      if (found.has_value() == wanted)
        ++right;
      else
        wrong += QString("%1: %2 Hz; ").arg(kind).arg(hz);
      if (!wanted || !found) continue;
      const Project after = withPhaseMended(two.project, two.key, *found);
      mended += !layersCancel(after, *findKey(after, two.key)) && found->after < Decibels(0);
    }
    QVERIFY2(right >= 48, qPrintable(wrong)); // .95
    QVERIFY2(mended >= cancel - 1, qPrintable(QString::number(mended)));
  }

  void whatIsLostIsWhatArithmeticSays() {
    const Samples tone = drum(60, 0, 0.4, 0, 1);
    // Equal and opposite by two thirds of a turn: the sum has the power of one of them, half of
    // both.
    const auto third = Two(tone, drum(60, 2 * M_PI / 3, 0.4, 0, 1)).found();
    QVERIFY(third && std::abs(third->lost.value - 10 * std::log10(2.0)) < 0.3);
    const auto copy = Two(tone, drum(60, M_PI, 0.4, 0, 1)).found();
    QVERIFY(copy && copy->polarity && copy->lost.value > 20);
    QVERIFY(std::abs(copy->after.value + 10 * std::log10(2.0)) < 0.1);
    // A quarter of a turn early is no matter of polarity: it is brought later.
    const auto early = Two(tone, drum(60, 2.4, 0.4, 0, 1)).found();
    QVERIFY(early && !early->polarity && early->by.value > 0.5 && early->by.value < 10);
  }

  void whatIsApartIsLeftAlone() {
    const Samples tone = drum(60, 0, 0.4, 0, 1), over = drum(60, M_PI, 0.4, 0, 1);
    QVERIFY(Two(tone, over).found());
    LayerPlay play;
    play.delay = Milliseconds(41.7); // another hit
    QVERIFY(!Two(tone, tone, play).found());
    play = {};
    play.level = Decibels(-14);
    QVERIFY(!Two(tone, over, play).found());
    play = {};
    play.highPass = Hertz(900); // only its knock is left
    QVERIFY(!Two(tone, over, play).found());
    Two turns(tone, over);
    turns.project = withLayerMode(turns.project, turns.key, LayerMode::InTurn);
    QVERIFY(!turns.found());
    // Bright sounds have no lows to lose.
    QVERIFY(!Two(drum(3000, 0, 0.4, 0, 1), drum(3000, M_PI, 0.4, 0, 1)).found());
  }

  void aNoteSaysItAndMendsIt() {
    const Two two(drum(60, 0, 0.4, 0, 1), drum(60, M_PI, 0.4, 0, 1));
    LoudnessCache loudness;
    const auto notes = notesOf(two.project, loudness);
    const auto note = std::find_if(notes.begin(), notes.end(), [](const Note& each) {
      return std::holds_alternative<finding::LayersCancelLows>(each.finding);
    });
    QVERIFY(note != notes.end() && note->stage == Stage::Keys);
    const Project after = note->fix(two.project);
    QVERIFY(findKey(after, two.key)->layers[0].play.inverted);
    for (const auto& each : notesOf(after, loudness))
      QVERIFY(!std::holds_alternative<finding::LayersCancelLows>(each.finding));
  }
};

QTEST_GUILESS_MAIN(TestLayerPhase)
#include "tst_layer_phase.moc"
