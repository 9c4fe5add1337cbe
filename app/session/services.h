// All that stands behind a window, put together.
#pragma once

#include "panel/panel.h"
#include "session/auditions.h"
#include "session/catch_service.h"
#include "session/controller_service.h"
#include "session/crate_service.h"
#include "session/deck_hand.h"
#include "session/document.h"
#include "session/files.h"
#include "session/job_service.h"
#include "session/note_trial.h"
#include "session/notes_service.h"
#include "session/peaks_cache.h"
#include "session/phrase_service.h"
#include "session/player.h"
#include "session/print_service.h"
#include "session/recorder.h"
#include "session/reel_player.h"
#include "session/song_meter.h"
#include "session/source_service.h"
#include "session/transport.h"

namespace tuvvo {

/// Each is handed the ones it uses. Who is handed this whole hands parts of it on: the window, main
/// and tests.
class Services : public Service {
  Q_OBJECT
public:
  Services();
  ~Services() override;

  /// Waits for everything in the background; for tests and pictures.
  void wait();

  Document document;
  JobService jobs;
  PeaksCache peaks{jobs};
  CrateService crate{document, jobs};
  Player player{document, jobs};
  Transport transport{document, player};
  CatchService catching{document, jobs, player, transport, crate};
  Recorder recorder{document, player, transport, [this] { return catching.toTheEar(); }};
  DeckHand hand{document, player, recorder};
  ControllerService controllers{document, player, transport, hand};
  NotesService notes{document, jobs};
  NoteTrial noteTrial{document, jobs, player, transport};
  SongMeter meter{document, jobs, player};
  Auditions auditions{document, jobs, player, transport, meter};
  PhraseService sifter{document, jobs, auditions, catching};
  ReelPlayer reel{document, jobs, player};
  SourceService sources{document, jobs, crate};
  Files files{document, jobs, crate};
  PrintService printing{document, jobs, player, files};

private:
  void poll();
  void watch();

  QTimer m_pollTimer, m_watchTimer;
};

/// Has an outermost panel show the document; what panels within it wish for comes true there.
void showDocument(Services& services, Panel& panel);

} // namespace tuvvo
