// The engine's queues and the score pointer under two threads; run under ThreadSanitizer as well.
#include "play/engine.h"
#include "support.h"

#include <QtTest>
#include <thread>

using namespace tuvvo;
using namespace tuvvo::test;

class TestEngineThreads : public QObject {
  Q_OBJECT
private slots:
  void queueCarriesEverythingInOrder() {
    SpscQueue<int, 64> queue;
    constexpr int count = 200000;
    std::thread writer([&] {
      for (int i = 0; i < count;) i += queue.push(i) ? 1 : 0;
    });
    int expected = 0, item = 0;
    while (expected < count)
      if (queue.pop(item)) QCOMPARE(item, expected++);
    writer.join();
  }

  void scoresCommandsAndReportsCross() {
    auto made = clickProject({0, 1, 2, 3}, 240, 1);
    std::weak_ptr<const Score> last;
    {
      Engine engine;
      std::atomic<bool> ending{false};
      std::thread audio([&] {
        Samples l(96), r(96);
        while (!ending) engine.process(l.data(), r.data(), 96);
      });
      engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
      engine.send({Engine::Command::Kind::Play});
      int reports = 0;
      Engine::Report report{};
      for (int i = 0; i < 1500; ++i) {
        made.project.tempo = Bpm(100 + i % 140);
        auto score = std::make_shared<const Score>(compilePattern(made.project, made.pattern));
        last = score;
        engine.setScore(std::move(score));
        Engine::Command strike{Engine::Command::Kind::Strike};
        strike.key = made.key;
        engine.send(strike);
        while (engine.nextReport(report)) ++reports;
        (void)engine.takePeaks();
        (void)engine.takeLevel(0);
        (void)engine.position();
        if (i % 16 == 0) std::this_thread::yield();
      }
      for (int i = 0; i < 200 && reports == 0; ++i) {
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
        while (engine.nextReport(report)) ++reports;
      }
      QVERIFY(reports > 0);
      ending = true;
      audio.join();
    }
    QVERIFY(last.expired()); // every score has been freed
  }
};

QTEST_APPLESS_MAIN(TestEngineThreads)
#include "tst_engine_threads.moc"
