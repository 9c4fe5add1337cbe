// Small rules that much else goes by: where a sound is put, what it is stretched by, what pan does.
#include "audio/encode.h"
#include "mix/pan.h"
#include "model/resolved_source.h"
#include "shape/bake.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestRules : public QObject {
  Q_OBJECT

  static Source heardAs(std::optional<HitClass> hit, double brightness) {
    Source source = sourceOf(makeSound(Samples(100, 0.1f)));
    source.heard = Analysis{};
    Onset onset;
    if (hit) onset.hits = {*hit};
    onset.brightness = Hertz(brightness);
    source.heard->onsets = {onset};
    return source;
  }

private slots:
  void aSoundGoesToTheRowOfItsKind() {
    using H = HitClass;
    for (const auto& [hit, brightness, row] :
         {std::tuple{std::optional(H::Kick), 2400.0, Row::Floor},
          {H::Kick, 2600.0, Row::Body},
          {H::Hat, 3000.0, Row::Air},
          {H::Snare, 3000.0, Row::Body},
          {H::Snare, 6600.0, Row::Air},
          {H::Snare, 6400.0, Row::Body},
          {std::optional<H>(), 490.0, Row::Floor},
          {std::optional<H>(), 510.0, Row::Body}})
      QVERIFY2(suggestedRow(heardAs(hit, brightness)) == row,
               qPrintable(QString::number(brightness)));
    QVERIFY(suggestedRow(sourceOf(makeSound(Samples(100, 0.1f)))) == Row::Body); // not heard yet
  }

  void soundsFillARowAndThenTheCuts() {
    Project project;
    Id source = 0;
    project = withSource(project, sourceOf(makeSound(Samples(100, 0.1f))), &source);
    for (int i = 0; i < kColumns; ++i) {
      QCOMPARE(freeColumn(project, Row::Body).value(), i);
      project = withSoundOnDeck(project, Row::Body, {source, 0}, "one");
    }
    QVERIFY(!freeColumn(project, Row::Body));
    QVERIFY(freeColumn(project, Row::Air) == 0);
    QCOMPARE(int(project.keys.size()), kColumns);
    for (const auto& key : project.keys) QVERIFY(key.row == Row::Body);
  }

  void aPlaceIsCountedInBeats() {
    const std::vector<Seconds> beats{Seconds(1), Seconds(2), Seconds(2.5), Seconds(4)};
    for (const auto& [at, place] : {std::pair{1.0, 0.0},
                                    {1.5, 0.5},
                                    {2.0, 1.0},
                                    {2.25, 1.5},
                                    {4.0, 3.0},
                                    {0.0, -1.0},
                                    {5.5, 4.0}}) // beyond them as the nearest two go on
      QCOMPARE(placeAmong(beats, Seconds(at)), place);
  }

  void drumsAreStretchedByTheirHits() {
    const auto of = [](SoundKind kind, bool key) {
      Source source = sourceOf(makeSound(Samples(100, 0.1f)));
      source.heard = Analysis{};
      source.corrections.kind = kind;
      if (key) source.heard->key = KeyHeard{};
      return materialOf(source);
    };
    QVERIFY(of(SoundKind::Break, false) == Material::Hits &&
            of(SoundKind::Break, true) == Material::Hits);
    QVERIFY(of(SoundKind::OneShot, false) == Material::Hits);
    QVERIFY(of(SoundKind::OneShot, true) == Material::Tones);
    QVERIFY(of(SoundKind::Loop, false) == Material::Tones);
    QVERIFY(materialOf(sourceOf(makeSound(Samples(100, 0.1f)))) == Material::Tones);
  }

  // A balance: the middle leaves both sides as they are, the ends leave one.
  void panLowersOneSide() {
    for (const auto& [pan, left, right] : {std::tuple{0.0, 1.0, 1.0},
                                           {-1.0, 1.0, 0.0},
                                           {1.0, 0.0, 1.0},
                                           {0.5, M_SQRT2 * std::cos(1.5 * M_PI / 4), 1.0},
                                           {-0.5, 1.0, M_SQRT2 * std::sin(0.5 * M_PI / 4)}}) {
      const auto [l, r] = panned(0.5, pan);
      QVERIFY(std::abs(double(l) - 0.5 * left) < 1e-6 && std::abs(double(r) - 0.5 * right) < 1e-6);
    }
    const auto mono = stereoMatrix(1, 0, 0), wide = stereoMatrix(1, 0, 2);
    for (float share : mono) QCOMPARE(share, 0.5f);
    QCOMPARE(wide[0], 1.5f);
    QCOMPARE(wide[1], -0.5f);
  }

  void whatFitsIn24BitsIsTold() {
    constexpr float step = 1 / 8388608.0f;
    for (const auto& [value, fits] : {std::pair{0.5f, true},
                                      {step, true},
                                      {-1.0f, true},
                                      {1.0f, false},
                                      {1 - step, true},
                                      {step / 2, false},
                                      {-1 - step, false}}) {
      Samples samples(10, 0.25f);
      samples[7] = value;
      QCOMPARE(fitsIn24Bits(Sound(Channels{Samples(10, 0.0f), samples}, Hertz(48000))), fits);
    }
  }
};

QTEST_GUILESS_MAIN(TestRules)
#include "tst_rules.moc"
