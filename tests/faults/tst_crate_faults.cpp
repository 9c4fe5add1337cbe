// The crate's database under faults: the n-th call of SQLite that changes the disc fails, once and
// for good, or the process is killed there; a shim over SQLite's own file system does it, after
// sqlite.org/vfs.html. What was said to be kept is kept; what was not said to be may be there or
// not.
#include "crate/crate.h"
#include "faults.h"
#include "support.h"

#include <QtTest>
#include <sqlite3.h>
#include <sys/wait.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace fs = std::filesystem;

namespace {

sqlite3_vfs* realVfs = nullptr;
Fault fault;
int calls = 0;

bool fails() {
  const int place = calls++;
  if (fault.at < 0) return false;
  if (fault.how == Fault::How::Kill) {
    if (place == fault.at) ::_exit(7);
    return false;
  }
  return fault.how == Fault::How::Once ? place == fault.at : place >= fault.at;
}

struct File {
  sqlite3_file base;
  sqlite3_file* real; ///< lies behind this one
};
sqlite3_file* realOf(sqlite3_file* file) { return reinterpret_cast<File*>(file)->real; }

sqlite3_io_methods methods() {
  sqlite3_io_methods m{};
  m.iVersion = 2;
  m.xClose = [](sqlite3_file* f) { return realOf(f)->pMethods->xClose(realOf(f)); };
  m.xRead = [](sqlite3_file* f, void* to, int n, sqlite3_int64 at) {
    return realOf(f)->pMethods->xRead(realOf(f), to, n, at);
  };
  m.xWrite = [](sqlite3_file* f, const void* from, int n, sqlite3_int64 at) {
    return fails() ? SQLITE_FULL : realOf(f)->pMethods->xWrite(realOf(f), from, n, at);
  };
  m.xTruncate = [](sqlite3_file* f, sqlite3_int64 n) {
    return fails() ? SQLITE_IOERR_TRUNCATE : realOf(f)->pMethods->xTruncate(realOf(f), n);
  };
  m.xSync = [](sqlite3_file* f, int flags) {
    return fails() ? SQLITE_IOERR_FSYNC : realOf(f)->pMethods->xSync(realOf(f), flags);
  };
  m.xFileSize = [](sqlite3_file* f, sqlite3_int64* n) {
    return realOf(f)->pMethods->xFileSize(realOf(f), n);
  };
  m.xLock = [](sqlite3_file* f, int how) { return realOf(f)->pMethods->xLock(realOf(f), how); };
  m.xUnlock = [](sqlite3_file* f, int how) { return realOf(f)->pMethods->xUnlock(realOf(f), how); };
  m.xCheckReservedLock = [](sqlite3_file* f, int* out) {
    return realOf(f)->pMethods->xCheckReservedLock(realOf(f), out);
  };
  m.xFileControl = [](sqlite3_file* f, int what, void* with) {
    return realOf(f)->pMethods->xFileControl(realOf(f), what, with);
  };
  m.xSectorSize = [](sqlite3_file* f) { return realOf(f)->pMethods->xSectorSize(realOf(f)); };
  m.xDeviceCharacteristics = [](sqlite3_file* f) {
    return realOf(f)->pMethods->xDeviceCharacteristics(realOf(f));
  };
  m.xShmMap = [](sqlite3_file* f, int page, int size, int extend, void volatile** out) {
    return realOf(f)->pMethods->xShmMap(realOf(f), page, size, extend, out);
  };
  m.xShmLock = [](sqlite3_file* f, int offset, int n, int flags) {
    return realOf(f)->pMethods->xShmLock(realOf(f), offset, n, flags);
  };
  m.xShmBarrier = [](sqlite3_file* f) { realOf(f)->pMethods->xShmBarrier(realOf(f)); };
  m.xShmUnmap = [](sqlite3_file* f, int gone) {
    return realOf(f)->pMethods->xShmUnmap(realOf(f), gone);
  };
  return m;
}

int openFile(sqlite3_vfs*, const char* name, sqlite3_file* f, int flags, int* outFlags) {
  static const sqlite3_io_methods ours = methods();
  auto* file = reinterpret_cast<File*>(f);
  file->base.pMethods = nullptr;
  file->real = reinterpret_cast<sqlite3_file*>(file + 1);
  if (fails()) return SQLITE_CANTOPEN;
  const int code = realVfs->xOpen(realVfs, name, file->real, flags, outFlags);
  if (file->real->pMethods) file->base.pMethods = &ours;
  return code;
}

void installShim() {
  realVfs = sqlite3_vfs_find(nullptr);
  static sqlite3_vfs shim = *realVfs;
  shim.pNext = nullptr;
  shim.zName = "faulty";
  shim.szOsFile = int(sizeof(File)) + realVfs->szOsFile;
  shim.xOpen = openFile;
  shim.xDelete = [](sqlite3_vfs*, const char* name, int sync) {
    return fails() ? SQLITE_IOERR_DELETE : realVfs->xDelete(realVfs, name, sync);
  };
  sqlite3_vfs_register(&shim, 1);
}

const std::string kHash(32, 'a');

/// What was said to be done, in this order.
struct Said {
  bool folder = false, marks = false, files = false;
};

Said work(const fs::path& place) {
  Said said;
  auto opened = Crate::open(place);
  if (!opened) return said;
  const auto crate = std::move(std::move(opened).value().crate);
  said.folder = crate->addFolder("/quay").ok();
  said.marks = crate->setMarks(kHash, {4, {"rain"}, {}, {}, {}}).ok();
  const std::vector<FileLook> looks{{"/quay/a.wav", 10, 1}, {"/quay/b.wav", 20, 2}};
  said.files = crate->sawFiles(looks).ok();
  (void)crate->writeProvenance();
  return said;
}

/// A crate in which something was said before.
void prepare(const fs::path& place) {
  auto opened = Crate::open(place);
  if (!opened) qFatal("%s", opened.error().text().c_str());
  const auto crate = std::move(std::move(opened).value().crate);
  if (!crate->addFolder("/before").ok() || !crate->writeProvenance().ok()) qFatal("cannot prepare");
}

std::string thirdIn(const fs::path& place, const Said& said) {
  auto opened = Crate::open(place);
  if (!opened) return opened.error().text();
  if (!opened->warnings.empty()) return opened->warnings[0];
  const auto crate = std::move(std::move(opened).value().crate);
  const auto folders = crate->folders();
  if (!folders) return folders.error().text();
  const std::set<std::string> all(folders->begin(), folders->end());
  if (!all.contains("/before")) return "what was there before is gone";
  if (said.folder && !all.contains("/quay")) return "a folder that was kept is gone";
  const auto marks = crate->marksOf(kHash);
  if (!marks) return marks.error().text();
  if (marks->stars != 4 && marks->stars != 0) return "half of the marks";
  if (marks->stars == 4 && marks->tags.size() != 1) return "half of the marks";
  if (said.marks && marks->stars != 4) return "marks that were kept are gone";
  const auto waiting = crate->waiting();
  if (!waiting) return waiting.error().text();
  if (waiting->size() != 0 && waiting->size() != 2) return "one file of two";
  if (said.files && waiting->size() != 2) return "files that were noted are gone";
  return {};
}

} // namespace

class TestCrateFaults : public QObject {
  Q_OBJECT

private slots:
  void initTestCase() { installShim(); }

  void theNthCallFails() {
    for (bool fresh : {false, true})
      for (auto how : {Fault::How::Once, Fault::How::ForGood}) {
        bool through = false;
        for (int n = 0; n < 2000 && !through; ++n) {
          QTemporaryDir dir;
          const fs::path place = pathIn(dir, "crate");
          fault = {};
          prepare(place);
          if (fresh) { // built again from what the provenance say
            for (const char* end : {"crate.db", "crate.db-wal", "crate.db-shm"})
              fs::remove(place / end);
          }
          calls = 0;
          fault = {n, how};
          const Said said = work(place);
          through = calls <= n;
          fault = {};
          const std::string third = thirdIn(place, said);
          QVERIFY2(third.empty(), (third + " (call " + std::to_string(n) + ")").c_str());
        }
        QVERIFY(through);
      }
  }

  void killedAtTheNthCall() {
    bool through = false;
    int kills = 0;
    for (int n = 0; n < 2000 && !through; ++n) {
      QTemporaryDir dir;
      const fs::path place = pathIn(dir, "crate");
      fault = {};
      prepare(place);
      int pipes[2];
      QCOMPARE(::pipe(pipes), 0);
      const pid_t child = ::fork();
      if (child == 0) {
        calls = 0;
        fault = {n, Fault::How::Kill};
        // What was said is told as it happens: the end may come at any moment.
        auto opened = Crate::open(place);
        if (!opened) ::_exit(3);
        const auto crate = std::move(std::move(opened).value().crate);
        const auto tell = [&](char what, bool ok) {
          if (ok) (void)!::write(pipes[1], &what, 1);
        };
        tell('f', crate->addFolder("/quay").ok());
        tell('m', crate->setMarks(kHash, {4, {"rain"}, {}, {}, {}}).ok());
        const std::vector<FileLook> looks{{"/quay/a.wav", 10, 1}, {"/quay/b.wav", 20, 2}};
        tell('s', crate->sawFiles(looks).ok());
        (void)crate->writeProvenance();
        ::_exit(0);
      }
      ::close(pipes[1]);
      Said said;
      for (char what = 0; ::read(pipes[0], &what, 1) == 1;) {
        said.folder = said.folder || what == 'f';
        said.marks = said.marks || what == 'm';
        said.files = said.files || what == 's';
      }
      ::close(pipes[0]);
      int status = 0;
      ::waitpid(child, &status, 0);
      QVERIFY(WIFEXITED(status) && WEXITSTATUS(status) != 3);
      through = WEXITSTATUS(status) == 0;
      kills += !through;
      const std::string third = thirdIn(place, said);
      QVERIFY2(third.empty(), (third + " (call " + std::to_string(n) + ")").c_str());
    }
    QVERIFY(through && kills > 10);
  }

  void aFullDiscIsBlamedOnlyWhenItIsFull() {
    QTemporaryDir dir;
    const fs::path place = pathIn(dir, "crate");
    prepare(place);
    auto opened = Crate::open(place);
    const auto crate = std::move(std::move(opened).value().crate);
    calls = 0;
    fault = {0, Fault::How::ForGood};
    const auto full = crate->addFolder("/x");
    fault = {};
    QVERIFY(!full.ok());
    QVERIFY2(full.error().remedy.find("Make room") != std::string::npos,
             full.error().text().c_str());
  }
};

QTEST_APPLESS_MAIN(TestCrateFaults)
#include "tst_crate_faults.moc"
