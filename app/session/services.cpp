#include "session/services.h"

namespace tuvvo {

namespace {
constexpr int kPollMs = 33, kWatchMs = 500;
}

Services::Services() {
  for (Service* each : std::initializer_list<Service*>{
           &document, &jobs, &crate, &player, &transport, &catching, &recorder, &hand, &controllers,
           &notes, &noteTrial, &meter, &auditions, &sifter, &reel, &sources, &files, &printing})
    connect(each, &Service::message, this, &Service::message);
  connect(&files, &Files::opened, &sources, &SourceService::analyseWaiting);
  connect(&m_pollTimer, &QTimer::timeout, this, &Services::poll);
  m_pollTimer.start(kPollMs);
  connect(&m_watchTimer, &QTimer::timeout, this, &Services::watch);
  m_watchTimer.start(kWatchMs);
}

/// Jobs use all of the others.
Services::~Services() { jobs.end(); }

void Services::poll() {
  controllers.poll();
  catching.poll();
  player.takeReports();
  recorder.poll();
  transport.poll(player.poll());
  jobs.poll();
}

void Services::watch() {
  player.watch();
  controllers.watch();
  catching.watch();
}

void Services::wait() {
  files.wait();
  jobs.wait();
}

void showDocument(Services& services, Panel& panel) {
  Document& document = services.document;
  const auto show = [&document, &panel] {
    panel.take({document.projectPtr(), document.selection()});
  };
  show();
  QObject::connect(&document, &Document::changed, &panel, show);
  QObject::connect(&document, &Document::selectionChanged, &panel, show);
  QObject::connect(&panel, &Panel::editWanted, &document, &Document::edit);
  QObject::connect(&panel, &Panel::settleWanted, &document, &Document::settle);
  QObject::connect(&panel, &Panel::selectionWanted, &document, &Document::select);
  QObject::connect(&panel, &Panel::playWanted, &services.player, &Player::playKey);
  QObject::connect(&panel, &Panel::message, &services, &Services::message);
}

} // namespace tuvvo
