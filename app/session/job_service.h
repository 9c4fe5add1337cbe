// Work beside the interface: one job that is shown, and any number of small ones.
#pragma once

#include "base/jobs.h"
#include "session/service.h"

namespace tuvvo {

/// Jobs take values and hand values back through later(). They use the services that began them, so
/// end() is called before any of those ends.
class JobService : public Service {
  Q_OBJECT
public:
  JobService();
  ~JobService() override;

  /// Begins a job that the window shows, with how far it is.
  void start(const QString& text, JobPool::Job job);
  void cancel();
  /// Of the job that is shown; empty when there is none.
  [[nodiscard]] const QString& text() const { return m_text; }
  /// 0 to 1.
  [[nodiscard]] double done() const { return m_shown ? m_shown->done() : 0; }

  /// A job that is not shown. @param trouble  told instead of trouble()
  std::shared_ptr<JobContext> run(JobPool::Job job, JobPool::Trouble trouble = {});
  /// One that is never behind anything long.
  std::shared_ptr<JobContext> runQuick(JobPool::Job job);

  /// Any thread: runs it on the interface thread, after what goes on there.
  void later(std::function<void()> action);
  /// Any thread: says as a message why a job ended before its end.
  [[nodiscard]] const JobPool::Trouble& trouble() const { return m_trouble; }

  /// Waits until nothing is queued or running.
  void wait();
  /// Cancels everything and waits for it. Nothing is begun after that.
  void end();
  /// Call it some thirty times a second.
  void poll();

signals:
  /// The job that is shown began, moved on or ended.
  void changed();

private:
  QString m_text;
  std::shared_ptr<JobContext> m_shown;
  JobPool::Trouble m_trouble;
  std::unique_ptr<JobPool> m_quick, m_pool;
};

} // namespace tuvvo
