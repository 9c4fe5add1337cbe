// What words ask for. Every form that people are shown is read as it is meant.
#include "crate/facet.h"
#include "crate/query.h"

#include <QTest>
#include <cmath>

using namespace tuvvo;

class TestQuery : public QObject {
  Q_OBJECT
private slots:
  void everyShownFormIsUnderstood() {
    for (const auto& form : queryForms()) {
      const Query query = readQuery(form.words);
      QVERIFY2(query.words.empty() && query.reading.size() == 1, form.words);
    }
  }

  void formsMixWithWords() {
    const Query q = readQuery("rain is loop 85-95 bpm near Am 2–8 bars quay chord minor held 2");
    QVERIFY(q.words == (std::vector<std::string>{"rain", "quay"}));
    QVERIFY(q.kind == SoundKind::Loop);
    QCOMPARE(q.tempo->first.value, 85.0);
    QCOMPARE(q.tempo->second.value, 95.0);
    QVERIFY(q.folded);
    QVERIFY(q.key == keyFromName("Am") && q.fifths == 1);
    QVERIFY(q.bars == (std::pair{2, 8}));
    QVERIFY(q.chord && q.chord->minor == true && q.chord->bars == 2);
    QCOMPARE(q.reading.size(), std::size_t(5));
    // "bars" may be said after it or not; what follows is a word of its own.
    for (const char* words : {"chord minor held 2 quay", "chord minor held 2 bars quay",
                              "chord minor held 1 bar quay"}) {
      const Query held = readQuery(words);
      QVERIFY2(held.words == std::vector<std::string>{"quay"}, words);
      QVERIFY(held.chord && held.chord->minor == true);
    }
  }

  void figures() {
    QVERIFY(readQuery("90bpm").tempo && !readQuery("exactly 90 bpm").folded);
    QVERIFY(readQuery("exactly 90bpm").tempo);
    const Query about = readQuery("90 bpm"); // a figure from memory is not to the last digit
    QVERIFY(about.tempo->first.value < 89.5 && about.tempo->second.value > 90.5);
    QVERIFY(readQuery("95-85 bpm").tempo->first == Bpm(85));
    const Query chord = readQuery("chord F#m7");
    QVERIFY(chord.chord->root == 6 && chord.chord->ending == "m7");
    QCOMPARE(readQuery("3 stars").stars, 3);
    QVERIFY(readQuery("tag Rain").tags == std::vector<std::string>{"Rain"});
    QVERIFY(readQuery("is uncleared").cleared == false && readQuery("is unused").used == false);
  }

  void partsAreAskedForTogether() {
    const Query q = readQuery("has lows no drums busy rain");
    QVERIFY(q.words == std::vector<std::string>{"rain"});
    const auto content = [](double lows, double drums, double onsets) {
      Content c;
      c.lows = lows;
      c.drums = drums;
      c.onsets = onsets;
      return c;
    };
    QVERIFY(q.part.agrees(content(0.5, 0, 8)));
    QVERIFY(!q.part.agrees(content(0.5, 4, 8)));
    QVERIFY(!q.part.agrees(content(0, 0, 8)));
    QVERIFY(!q.part.agrees(content(0.5, 0, 1)));
    QVERIFY(!q.part.agrees(Content{})); // nothing is known of it
    // One part has to be all of it: two that are each half of it are not.
    Analysis heard;
    heard.sections.push_back({Seconds(0), Seconds(1), "A", content(0.5, 4, 8)});
    heard.sections.push_back({Seconds(1), Seconds(2), "B", content(0, 0, 8)});
    QVERIFY(!q.part.agrees(partsOf(heard)));
    heard.sections.push_back({Seconds(2), Seconds(3), "C", content(0.5, 0, 8)});
    QVERIFY(q.part.agrees(partsOf(heard)));
    QVERIFY(!q.part.agrees(Parts(0)));
    QVERIFY(readQuery("calm").part.has == readQuery("has calm").part.has);
    QVERIFY(readQuery("lows").part == PartWanted{} && readQuery("lows").words.size() == 1);
  }

  void likenessIsNearForWhatIsAlike() {
    Analysis kick;
    kick.duration = Seconds(0.4);
    kick.content.lows = 0.9;
    kick.content.drums = kick.content.onsets = 2;
    Onset stroke;
    stroke.brightness = Hertz(200);
    stroke.decay = Milliseconds(150);
    stroke.levels = {Decibels(-6), Decibels(-30), Decibels(-40), Decibels(-6)};
    kick.onsets = {stroke};
    Analysis other = kick, hat = kick, quieter = kick;
    other.onsets[0].brightness = Hertz(260);
    for (auto& level : quieter.onsets[0].levels) level -= Decibels(12);
    hat.content.lows = 0;
    hat.onsets[0].brightness = Hertz(8000);
    hat.onsets[0].levels = {Decibels(-50), Decibels(-30), Decibels(-8), Decibels(-6)};
    const auto of = [](const Analysis& heard) { return *likenessOf(heard); };
    QCOMPARE(unlikeness(of(kick), of(kick)), 0.0f);
    QCOMPARE(unlikeness(of(kick), of(quieter)), 0.0f);
    QVERIFY(unlikeness(of(kick), of(other)) < kAlike);
    QVERIFY(unlikeness(of(kick), of(hat)) > kAlike);
    QVERIFY(!likenessOf(Analysis{}));
    Query like = readQuery("like this one");
    QVERIFY(like.likeThis && !like.like && like.words.empty());
    like.like = of(kick);
    const BeatNow beat;
    const FacetFilter filter(like, beat);
    Facet facet;
    QVERIFY(!filter.takes(facet));
    facet.likeness = of(other);
    QVERIFY(filter.takes(facet));
    facet.likeness = of(hat);
    QVERIFY(!filter.takes(facet));
  }

  void whatMeansNothingElseIsAWord_data() {
    QTest::addColumn<QString>("text");
    for (const char* text : {"is",
                             "near",
                             "in",
                             "in the rain",
                             "bpm",
                             "x bpm",
                             "-5 bpm",
                             "1e999 bpm",
                             "chord",
                             "chord H",
                             "9 stars",
                             "tag",
                             "exactly",
                             "bars",
                             "is purple",
                             "has",
                             "no",
                             "has rain",
                             "like",
                             "like this",
                             "1- bpm",
                             "\"",
                             "'; DROP TABLE source; --"})
      QTest::newRow(text) << text;
  }
  void whatMeansNothingElseIsAWord() {
    QFETCH(QString, text);
    const Query q = readQuery(text.toStdString());
    QVERIFY(q.reading.empty());
    QCOMPARE(q.words.size(), std::size_t(text.split(' ', Qt::SkipEmptyParts).size()));
  }

  /// C major, the first of the keys, is a key as any other.
  void whatHasNoTempoIsReachedByItsKey() {
    const BeatNow keyed{Bpm(90), KeyName{7, false}}, keyless{Bpm(90), {}};
    for (int key = 0; key < 24; ++key) {
      Facet facet;
      facet.heard = true;
      facet.key = std::int8_t(key);
      QVERIFY2(std::isfinite(reachOf(facet, keyed)), std::to_string(key).c_str());
      QVERIFY(std::isinf(reachOf(facet, keyless)));
      facet.key = -1;
      QVERIFY(std::isinf(reachOf(facet, keyed)));
    }
  }

  void pastedTextIsBounded() {
    QVERIFY(readQuery(std::string(5'000'000, 'x')).words[0].size() <= 200);
    std::string many;
    for (int i = 0; i < 100000; ++i) many += "is loop rain ";
    QVERIFY(readQuery(many).words.size() <= 64);
  }
};

QTEST_APPLESS_MAIN(TestQuery)
#include "tst_query.moc"
