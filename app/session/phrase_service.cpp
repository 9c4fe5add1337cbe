#include "session/phrase_service.h"

#include "audio/decode.h"
#include "session/clock_text.h"

#include <QFile>
#include <QFileInfo>
#include <algorithm>

namespace tuvvo {

namespace {

QString qt(const std::filesystem::path& path) { return QString::fromStdString(path.string()); }

} // namespace

PhraseService::PhraseService(Document& document, JobService& jobs, Auditions& auditions,
                             CatchService& catching)
    : m_document(document), m_auditions(auditions), m_catching(catching),
      m_pool(1, jobs.trouble()) {
  connect(&catching, &CatchService::tookLong, this, [this](const QString& path) {
    look();
    open(path.toStdString());
  });
  connect(&document, &Document::changed, this, [this] {
    if (!m_rows.empty() && beatNowOf(m_document.project()) != m_rankedFor) rank();
  });
}

void PhraseService::look(bool atStart) {
  m_takes = takesIn(m_catching.takesFolder());
  if (atStart)
    for (const auto& take : m_takes)
      if (!take.whole) {
        emit message(
            tr("A take of %1 from %2 had not come to its end. It is kept; sift it in Keys, Catch.")
                .arg(clockText(take.length), take.about.input.empty()
                                                 ? tr("an input")
                                                 : QString::fromStdString(take.about.input)),
            false);
        break;
      }
  emit changed();
}

TakeAbout PhraseService::about() const {
  for (const auto& take : m_takes)
    if (take.path == m_path) return take.about;
  return {};
}

void PhraseService::open(const std::filesystem::path& take) {
  close();
  m_path = take;
  for (const auto& known : m_takes)
    if (known.path == take && !known.whole)
      if (auto marked = markWhole(known); !marked)
        emit message(QString::fromStdString(marked.error().text()), true);
  sift();
}

void PhraseService::close() {
  if (m_job) m_job->cancel();
  m_job.reset();
  ++m_run;
  m_rows.clear();
  m_sound.reset();
  m_peaks.reset();
  m_path.clear();
  emit changed();
}

/// Reads and hears in the background; phrases come one by one.
void PhraseService::sift() {
  const int run = ++m_run;
  const auto back = [this, run](std::function<void()> action) {
    QMetaObject::invokeMethod(
        this,
        [this, run, action = std::move(action)] {
          if (run == m_run) action();
        },
        Qt::QueuedConnection);
  };
  m_job = m_pool.run([this, back, path = m_path](JobContext& job) {
    auto decoded = decodeFile(path, job);
    std::string said;
    if (decoded) {
      const SoundPtr take = decoded->sound;
      back([this, take, peaks = std::make_shared<Peaks>(*take)] {
        m_sound = take;
        m_peaks = peaks;
        emit changed();
      });
      detectPhrases(*take, {}, job, [&](Phrase phrase) {
        back([this, row = Row{std::move(phrase)}] {
          m_rows.push_back(row);
          rank();
        });
      });
    } else if (!job.cancelled()) {
      said = decoded.error().text();
    }
    back([this, said] {
      m_job.reset();
      if (!said.empty()) emit message(QString::fromStdString(said), true);
      emit changed();
    });
  });
  emit changed();
}

void PhraseService::setOrder(Order order) {
  m_order = order;
  rank();
}

void PhraseService::rank() {
  m_rankedFor = beatNowOf(m_document.project());
  for (Row& row : m_rows) row.cost = costOf(row.phrase, beatNowOf(m_document.project()));
  std::stable_sort(m_rows.begin(), m_rows.end(), [this](const Row& a, const Row& b) {
    if (m_order == Order::Fit && a.cost != b.cost) return a.cost < b.cost;
    return a.phrase.start < b.phrase.start;
  });
  emit changed();
}

std::shared_ptr<Source> PhraseService::sourceOf(const Row& row) const {
  auto source = std::make_shared<Source>();
  const Hertz rate = m_sound->rate();
  source->name = tr("%1 at %2")
                     .arg(QFileInfo(qt(m_path)).completeBaseName(),
                          clockText(toSeconds(row.phrase.start, rate)))
                     .toStdString();
  source->sound = soundOf(*m_sound, row.phrase.start, row.phrase.end);
  source->hash = source->sound->hash();
  source->heard = row.phrase.heard;
  const TakeAbout from = about();
  source->provenance.from =
      tr("caught from %1").arg(QString::fromStdString(from.input)).toStdString();
  source->provenance.when = from.when;
  source->provenance.note =
      tr("%1 to %2 of %3 (%4)")
          .arg(clockText(toSeconds(row.phrase.start, rate)),
               clockText(toSeconds(row.phrase.end, rate)), QFileInfo(qt(m_path)).fileName(),
               QString::fromStdString(from.settings))
          .toStdString();
  return source;
}

void PhraseService::star(std::size_t row) {
  if (row >= m_rows.size()) return;
  m_rows[row].starred = !m_rows[row].starred;
  emit changed();
}

int PhraseService::sounding() const {
  if (m_heardHash.empty() || m_auditions.heard().hash != m_heardHash) return -1;
  for (std::size_t row = 0; row < m_rows.size(); ++row)
    if (m_rows[row].phrase.start == m_heardStart) return int(row);
  return -1;
}

void PhraseService::play(std::size_t row, bool toTheBeat) {
  if (row >= m_rows.size() || !m_sound) return;
  if (int(row) == sounding()) return m_auditions.end();
  const auto source = sourceOf(m_rows[row]);
  m_heardHash = source->hash;
  m_heardStart = m_rows[row].phrase.start;
  if (toTheBeat)
    m_auditions.audition(source);
  else
    m_auditions.playAsItIs(source);
}

void PhraseService::keep(std::size_t row) {
  if (row >= m_rows.size() || m_rows[row].kept || !m_sound) return;
  const auto source = sourceOf(m_rows[row]);
  std::string name = source->name;
  std::replace(name.begin(), name.end(), ':', '.'); // it names a file
  m_catching.add({source->sound, name, source->provenance, {}, false});
  m_rows[row].kept = true;
  emit changed();
}

int PhraseService::keepStarred() {
  int count = 0;
  for (std::size_t row = 0; row < m_rows.size(); ++row)
    if (m_rows[row].starred && !m_rows[row].kept) {
      keep(row);
      ++count;
    }
  return count;
}

void PhraseService::dropRest() {
  if (m_path.empty()) return;
  m_catching.waitForAdded(); // what was kept lies in files of its own
  const QString from = qt(m_path);
  QString there;
  if (!QFile::moveToTrash(from, &there)) {
    emit message(tr("%1: the take cannot be moved to the trash. It stays where it is.").arg(from),
                 true);
    return;
  }
  m_dropped = there;
  m_droppedFrom = from;
  close();
  look();
  emit message(tr("The take is in the trash; what you kept of it stays."), false);
}

void PhraseService::putBack() {
  if (m_dropped.isEmpty()) return;
  if (!QFile::rename(m_dropped, m_droppedFrom)) {
    emit message(
        tr("%1: the take cannot be put back. Look for it in the trash.").arg(m_droppedFrom), true);
    return;
  }
  const auto path = m_droppedFrom.toStdString();
  m_dropped.clear();
  look();
  open(path);
}

} // namespace tuvvo
