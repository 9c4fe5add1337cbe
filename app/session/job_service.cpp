#include "session/job_service.h"

namespace tuvvo {

JobService::JobService()
    : m_trouble([this](const Error& error) {
        later([this, said = error.text()] { emit message(QString::fromStdString(said), true); });
      }),
      m_quick(std::make_unique<JobPool>(1, m_trouble)),
      m_pool(std::make_unique<JobPool>(2, m_trouble)) {}

JobService::~JobService() = default;

void JobService::later(std::function<void()> action) {
  QMetaObject::invokeMethod(this, std::move(action), Qt::QueuedConnection);
}

std::shared_ptr<JobContext> JobService::run(JobPool::Job job, JobPool::Trouble trouble) {
  return m_pool ? m_pool->run(std::move(job), std::move(trouble)) : nullptr;
}

std::shared_ptr<JobContext> JobService::runQuick(JobPool::Job job) {
  return m_quick ? m_quick->run(std::move(job)) : nullptr;
}

void JobService::start(const QString& text, JobPool::Job job) {
  m_text = text;
  const auto ended = [this] {
    later([this] {
      m_shown.reset();
      m_text.clear();
      emit changed();
    });
  };
  m_shown = run(
      [job = std::move(job), ended](JobContext& context) {
        job(context);
        ended();
      },
      [this, ended](const Error& error) {
        m_trouble(error);
        ended();
      });
  emit changed();
}

void JobService::cancel() {
  if (m_shown) m_shown->cancel();
}

void JobService::wait() {
  if (m_quick) m_quick->waitIdle();
  if (m_pool) m_pool->waitIdle();
}

void JobService::end() {
  m_quick.reset();
  m_pool.reset();
}

void JobService::poll() {
  if (m_shown) emit changed();
}

} // namespace tuvvo
