// Crate: what is in this beat, what is owned, what could be had; what was heard in it; what fits.
#pragma once

#include "crate/service.h"
#include "crate/subject.h"
#include "listen/tap_tempo.h"
#include "parts/stage_view.h"

#include <QElapsedTimer>

class QBoxLayout;
class QStackedWidget;

namespace tuvvo {

class Auditions;
class Button;
class ControlRow;
class CrateService;
class EmptyPlace;
class PeaksCache;
class Player;
class OverlayView;
class ProvenanceForm;
class ReachMap;
class ScanLine;
class SearchLine;
class SourceCard;
class SourceList;
class SourceListModel;
class SourceService;
class ReelPlayer;
class Label;
class StageHead;
class Tabs;
class Tick;

class CrateStage : public StageView {
  Q_OBJECT
public:
  struct Uses {
    CrateService& crate;
    SourceService& sources;
    Auditions& auditions;
    PeaksCache& peaks;
    Player& player;
    ReelPlayer& reel;
  };
  CrateStage(Panel& host, const Uses& uses, QWidget* parent);
  void setScope(Scope scope);
  [[nodiscard]] Scope scope() const { return m_scope; }
  bool showPanel(const QString& name) override;

signals:
  void demoWanted();
  void tourWanted();

private:
  void buildHead();
  void buildEmpty();
  void buildLeft(QBoxLayout* into);
  void buildRight(QBoxLayout* into);
  ControlRow* makeActs();
  void addCommands();
  void search();
  /// What the words ask for; "this one" is what was chosen when they came to be there.
  [[nodiscard]] Query askedFor();
  void findLikeIt();
  void refresh();
  void choose(RowId row);
  void showSubject();
  /// What the work goes on with: with the beat's tempo and key, or with cuts.
  enum class Next { Nothing, TakeTempoAndKey, Keep, Cut };
  [[nodiscard]] Next nextStep() const;
  void showNext();
  void showBody();
  void doNext();
  void fillMap();
  [[nodiscard]] std::optional<CrateRow> rowOf(RowId row);
  [[nodiscard]] Subject subjectOf(RowId row);
  void playWithBeat();
  void keepIt();
  void playIntoLine();
  void correct(const QString& name, const std::function<void(Corrections&)>& change,
               const QString& merge = {});
  void correctTempo(double factor);
  void tapSource();
  void chooseKey();
  void chooseKind();
  void giveStars(int more);
  void remove();
  const SampleService* service();

  CrateService& m_crate;
  SourceService& m_sources;
  Auditions& m_auditions;
  PeaksCache& m_peaks;
  Player& m_player;
  ReelPlayer& m_reel;
  Scope m_scope = Scope::Beat;
  Subject m_subject;
  SourceListModel* m_model;
  SourceList* m_list;
  SearchLine* m_search;
  ScanLine* m_scan;
  SourceCard* m_card;
  ReachMap* m_map;
  OverlayView* m_overlay;
  ProvenanceForm* m_provenance;
  QStackedWidget* m_lower;
  StageHead* m_head;
  EmptyPlace* m_empty; ///< in place of the rest where the beat has no sound yet
  QWidget* m_body;
  Button *m_takeTour, *m_lookThrough;
  Label* m_notice;
  Tabs *m_scopes, *m_panels;
  Tick* m_kit;
  ControlRow* m_acts;
  Button *m_add, *m_next, *m_hear, *m_half, *m_double, *m_tap, *m_key, *m_kind, *m_heardAgain,
      *m_keep, *m_remove;
  std::optional<SampleService> m_service;
  bool m_serviceTried = false;
  std::optional<Likeness> m_like; ///< of "this one"
  TapTempo m_taps;
  QElapsedTimer m_clock;
  QTimer m_searchTimer;
  bool m_showKit = false, m_filling = false;
};

} // namespace tuvvo
