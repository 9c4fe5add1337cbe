// What the bake cache keeps, forgets, stops and says.
#include "shape/played.h"
#include "shape/shaped.h"

#include "patience.h"
#include "shape/bake_cache.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestBakeCache : public QObject {
  Q_OBJECT
  JobContext m_job;

private slots:
  void theCacheForgetsTheOldestAndNeverWhatIsWanted() {
    const auto sound = played(steadyBeats(100, 8), 100, true).sound;
    std::vector<BakeOrder> orders;
    for (int i = 0; i < 7; ++i) {
      BakeOrder order;
      order.sound = sound;
      order.recipe.line.knots = {{0, 0}, {1, 1}};
      order.recipe.line.length = 1 + i * 0.01;
      order.setNames();
      orders.push_back(order);
    }
    BakeCache bakeCache(2, {}, 900'000); // two bakes of 384 000 bytes and a little
    bakeCache.want({orders.begin(), orders.begin() + 4});
    bakeCache.wait();
    for (int i = 0; i < 4; ++i) QVERIFY(bakeCache.find(orders[std::size_t(i)].name)); // all wanted
    const auto there = [&] {
      QString out;
      for (std::size_t i = 0; i < orders.size(); ++i)
        if (bakeCache.find(orders[i].name)) out += QString::number(i);
      return out;
    };
    QCOMPARE(there(), QString("0123"));
    QVERIFY(bakeCache.bakeAll({orders.begin() + 4, orders.begin() + 6}, m_job).ok());
    QCOMPARE(there(), QString("01235")); // the fourth made room, as the others are wanted
    bakeCache.want({orders[5]});
    bakeCache.wait();
    QCOMPARE(there(), QString("01235")); // room is made only where it is needed
    QVERIFY(bakeCache.bakeAll({orders[6]}, m_job).ok());
    QCOMPARE(there(), QString("56"));
    JobContext cancelled;
    cancelled.cancel();
    BakeOrder fresh = orders[0];
    fresh.name = "never baked";
    QVERIFY(!bakeCache.bakeAll({fresh}, cancelled).ok());
    QVERIFY(!bakeCache.find("never baked"));
  }

  void changingOrdersWhileItBakesIsSafe() {
    const auto sound = played(steadyBeats(100, 32), 100, true, 220).sound;
    std::atomic<int> told{0};
    BakeCache bakeCache(2, [&told] { ++told; });
    std::vector<BakeOrder> last;
    for (int round = 0; round < 30; ++round) {
      last.clear();
      for (int i = 0; i < 8; ++i) {
        BakeOrder order;
        order.sound = sound;
        order.recipe.method = FitMethod::Stretch;
        order.recipe.line.knots = {{double(i), 0}, {i + 1.0, 1.0 + round * 0.01}};
        order.recipe.line.length = 1.0 + round * 0.01;
        order.setNames();
        last.push_back(order);
      }
      bakeCache.want(last);
      QTest::qWait(3);
    }
    bakeCache.wait();
    for (const auto& order : last) QVERIFY(bakeCache.find(order.name));
    QVERIFY(told > 0);
    QCOMPARE(bakeCache.progress().done, 1.0);
  }

  void aPreviewStandsInUntilTheFineOneIsThere() {
    BakeOrder order;
    order.sound = played(steadyBeats(100, 8), 100, true, 220).sound;
    order.recipe.method = FitMethod::Stretch;
    order.recipe.line.knots = {{0, 0}, {4, 5}};
    order.recipe.line.length = 5;
    order.setNames();
    QVERIFY(order.hasPreview() && !order.preview().hasPreview());
    BakeCache bakeCache(1, {});
    bakeCache.want({order});
    EVENTUALLY(bakeCache.find(order.name)); // the quick one, or the fine one already
    bakeCache.wait();
    const auto fine = bake(*order.sound, order.recipe, m_job);
    QVERIFY(fine.ok());
    QCOMPARE(bakeCache.find(order.name).sound->hash(), (*fine)->hash());
    QVERIFY(!bakeCache.find(order.preview().name)); // it is of no more use
  }

  void whatIsStoppedIsSaidAndGoesOn() {
    std::vector<BakeOrder> orders;
    const auto sound = played(steadyBeats(100, 8), 100, true, 220).sound;
    for (int i = 0; i < 6; ++i) {
      BakeOrder order;
      order.sound = sound;
      order.recipe.method = FitMethod::Stretch;
      order.recipe.line.knots = {{0, 0}, {1, 1.2 + i * 0.1}};
      order.recipe.line.length = 1.2 + i * 0.1;
      order.setNames();
      orders.push_back(order);
    }
    BakeCache bakeCache(1, {});
    bakeCache.want(orders);
    QVERIFY(bakeCache.progress().working());
    bakeCache.stop();
    bakeCache.wait(); // nothing is waited for any more
    const auto stopped = bakeCache.progress();
    QCOMPARE(stopped.wanted, 6);
    QCOMPARE(stopped.ready, 6);
    QVERIFY(stopped.stopped > 0 && !stopped.working() && stopped.trouble.empty());
    bakeCache.resume();
    QVERIFY(bakeCache.progress().stopped == 0);
    double last = 0;
    while (bakeCache.progress().working()) {
      const double done = bakeCache.progress().done;
      QVERIFY(done >= 0 && done <= 1);
      last = std::max(last, done);
      QTest::qWait(2);
    }
    QVERIFY(last > 0);
    for (const auto& order : orders) QVERIFY(bakeCache.find(order.name));
  }

  void whatCannotBeBakedIsSaidOnce() {
    BakeOrder order;
    order.sound = makeSound(Samples(100, 0.1f));
    order.treatments.resize(1);
    order.treatments[0].what = treat::Stutter{4, 64, Decibels(0), Semitones(-24)};
    order.frame.tempo = Bpm(20);
    order.recipe.line.knots = {{0, 0}, {1, 1}};
    order.recipe.line.length = 1;
    order.setNames();
    BakeCache bakeCache(1, {});
    bakeCache.want({order});
    bakeCache.wait();
    const auto progress = bakeCache.progress();
    QCOMPARE(progress.ready, 1);
    QVERIFY(!progress.working());
    QCOMPARE(bool(bakeCache.find(order.name)), progress.trouble.empty());
    QVERIFY(!progress.trouble.empty());
  }
};

QTEST_GUILESS_MAIN(TestBakeCache)
#include "tst_bake_cache.moc"
