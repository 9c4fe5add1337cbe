#include "shell/message_bar.h"
#include "session/job_service.h"

#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/label.h"

#include <QHBoxLayout>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kMessageMs = 5000, kTroubleMs = 20000;
}

MessageBar::MessageBar(JobService& jobs, QWidget* parent) : QWidget(parent), m_jobs(jobs) {
  m_message = new Label(theme::Type::Small, theme::Ink::Text, this);
  m_message->setWraps(true);
  m_job = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_answer = new Button(tr("Yes"), tr("Take what is offered"), this);
  m_answer->setObjectName(QStringLiteral("answer"));
  m_answer->setWeight(Button::Weight::Next);
  m_cancel = new Button(tr("Cancel"), tr("Stop this work; nothing is lost"), this);
  m_close = new Button(tr("Close"), tr("Close this message"), this);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(px(16), px(4), px(12), px(4));
  row->addWidget(m_message, 1);
  row->addWidget(m_job);
  for (Button* button : {m_answer, m_cancel, m_close}) row->addWidget(button);
  m_timer.setSingleShot(true);
  connect(&m_timer, &QTimer::timeout, this, &MessageBar::close);
  connect(m_close, &QAbstractButton::clicked, this, &MessageBar::close);
  connect(m_cancel, &QAbstractButton::clicked, this, [this] { m_jobs.cancel(); });
  connect(m_answer, &QAbstractButton::clicked, this, [this] {
    if (!m_offer) return;
    const auto act = std::move(m_offer->act);
    m_offer.reset();
    close();
    act();
  });
  connect(&jobs, &JobService::changed, this, &MessageBar::refresh);
  refresh();
}

void MessageBar::say(const QString& text, bool trouble) {
  m_saying = true;
  m_timer.start(trouble ? kTroubleMs : kMessageMs);
  show(text, trouble);
}

void MessageBar::offer(const QString& text, const QString& answer, std::function<void()> act) {
  m_offer = Offer{text, answer, std::move(act)};
  if (!m_saying) show(text, false);
}

/// The message goes; an offer that was under it is seen again, and one that was seen is declined.
void MessageBar::close() {
  m_timer.stop();
  if (!m_saying) m_offer.reset();
  m_saying = false;
  show(m_offer ? m_offer->text : QString(), false);
}

void MessageBar::show(const QString& text, bool trouble) {
  m_message->setText(text);
  m_message->setInk(trouble ? theme::Ink::Coral : theme::Ink::Text);
  refresh();
}

void MessageBar::refresh() {
  const QString job = m_jobs.text();
  const bool offering = m_offer && !m_saying;
  m_job->setText(job.isEmpty()
                     ? QString()
                     : QStringLiteral("%1  %2 %").arg(job).arg(toWhole<int>(m_jobs.done() * 100)));
  m_cancel->setVisible(!job.isEmpty());
  if (offering) m_answer->setSaid(m_offer->answer, m_answer->toolTip());
  m_answer->setVisible(offering);
  m_close->setVisible(!m_message->text().isEmpty());
  setVisible(!job.isEmpty() || !m_message->text().isEmpty());
}

} // namespace tuvvo
