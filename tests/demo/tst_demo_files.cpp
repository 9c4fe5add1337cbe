// What the demo is as text, as MIDI and as an instrument is what it was.
#include "base/files.h"
#include "demo/the_demo.h"
#include "formats/pattern_text.h"
#include "formats/slices_out.h"
#include "formats/smf_beat.h"
#include "formats/smf_events.h"
#include "kept.h"
#include "play/score.h"
#include "support.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemoFiles : public QObject {
  Q_OBJECT
  Project m_demo;
  KeptJson m_now;

  static KeptJson linesOf(const std::string& text) {
    KeptJson out = KeptJson::array();
    for (const auto& line : QString::fromStdString(text).split('\n'))
      out.push_back(line.toStdString());
    return out;
  }
  /// Time in quarters and bytes in hexadecimal, one text an event.
  static KeptJson eventsOf(const std::filesystem::path& path) {
    const auto events = readSmfFile(path);
    if (!events) return events.error().text();
    KeptJson out = KeptJson::array();
    for (const auto& event : events->events) {
      const QByteArray bytes(reinterpret_cast<const char*>(event.bytes.data()),
                             qsizetype(event.bytes.size()));
      out.push_back(QByteArray::number(event.quarters, 'f', 4)
                        .append(' ')
                        .append(bytes.toHex())
                        .toStdString());
    }
    return out;
  }

private slots:
  void initTestCase() { m_demo = theDemo(); }

  void theyAreWhatTheyWere() {
    QTemporaryDir dir;
    Outputs outputs;
    JobContext job;
    for (const auto& pattern : m_demo.patterns) {
      const std::string name = "pattern " + std::to_string(pattern->id);
      const std::string text = patternText(m_demo, *pattern);
      m_now[name] = linesOf(text);
      const auto again = patternFromText(m_demo, text);
      QVERIFY2(again.ok(), again.ok() ? "" : again.error().text().c_str());
      QCOMPARE(patternText(again->project, again->pattern), text);
    }
    const Id first = m_demo.patterns.front()->id;
    const auto one = pathIn(dir, "pattern.mid"), song = pathIn(dir, "song.mid");
    QVERIFY(writeSmf(compilePattern(m_demo, first), m_demo, false, one, outputs).ok());
    QVERIFY(writeSmf(compileSong(m_demo), m_demo, true, song, outputs).ok());
    m_now["one as MIDI"] = eventsOf(one);
    const KeptJson events = eventsOf(song);
    KeptJson& some = m_now["the song as MIDI, every ninth"] = KeptJson::array();
    for (std::size_t i = 0; i < events.size(); i += 9) some.push_back(events[i]);
    for (int perBeat : {3, 4}) {
      const auto read = readSmfBeat(one, m_demo, "read", {m_demo.keys.back().id, perBeat});
      QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
      m_now["read again on " + std::to_string(perBeat)] =
          linesOf(patternText(m_demo, read->pattern));
      m_now["what was bent on " + std::to_string(perBeat)] = read->warnings;
    }
    for (const auto& source : m_demo.sources) {
      if (source->kit || source->recipe) continue;
      const SlicesOut how{.folder = pathIn(dir, ("slices " + source->name).c_str()),
                          .asTheySound = false};
      const auto written = writeSlices(m_demo, source->id, how, outputs, job);
      QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
      KeptJson& files = m_now["slices of " + source->name] = KeptJson::array();
      for (const auto& file : *written) {
        files.push_back(
            {file.path.filename().string(), file.key, file.start.value, file.end.value});
        if (file.path.extension() == ".sfz")
          files.push_back(linesOf(*readFile(file.path, 1 << 20)));
      }
    }
    compareKept("demo-files.json", m_now);
  }
};

QTEST_GUILESS_MAIN(TestDemoFiles)
#include "tst_demo_files.moc"
