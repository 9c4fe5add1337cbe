// Cut: ways to cut, the waveform, the drift line, the chosen slice, the fit ruler.
#pragma once

#include "parts/stage_view.h"

namespace tuvvo {

class Auditions;
class Button;
class EmptyPlace;
class LoudnessCache;
class PeaksCache;
class Player;
class PrintService;
class SourceService;
class Transport;
class WaveView;
class FitPanel;
class CutModes;
class TapCuts;
class SlicePanel;
class StageHead;
class StraightenRow;
class Tabs;

class CutStage : public StageView {
  Q_OBJECT
public:
  struct Uses {
    PeaksCache& peaks;
    LoudnessCache& loudness;
    Player& player;
    Transport& transport;
    Auditions& auditions;
    SourceService& sources;
    PrintService& printing;
  };
  CutStage(Panel& host, const Uses& uses, QWidget* parent);
  [[nodiscard]] WaveView& wave() { return *m_wave; }
  [[nodiscard]] SlicePanel& slice() { return *m_slice; }
  /// A source by its name; "NAME/straight" pulls it four fifths straight, "NAME/treat" treats a
  /// slice, and "NAME/sound" and the like open its panels.
  bool showPanel(const QString& name) override;

protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

private:
  void addCommands();
  void addTapCommands();
  void addSliceCommands();
  void lightSounding();
  void refresh();
  void refreshNext(const Source* source);
  /// Cuts by the recommended way where nothing is cut; else the work goes on in the beat.
  void doNext();
  void layOutOnce(Id source);
  void hear();
  void recut(const std::function<void(CutSettings&)>& change, const QString& merge = {});
  QWidget* makeLineUp();
  void arrange();

  SourceService& m_sources;
  Player& m_player;
  Transport& m_transport;
  Auditions& m_auditions;
  WaveView* m_wave;
  FitPanel* m_fit;
  QWidget* m_lineUp; ///< in a low window this or the next
  SlicePanel* m_slice;
  QWidget* m_sliceArea; ///< scrolls it where there is no room
  StraightenRow* m_straighten;
  std::uint64_t m_orders = 0; ///< how often the slices were reordered: each time otherwise
  enum Low { Ways, LineUp, Slice, Fit };
  Tabs* m_shown; ///< which of them a low window shows
  StageHead* m_head;
  Button *m_hear, *m_next;
  QWidget* m_work; ///< everything but m_empty
  EmptyPlace* m_empty;
  CutModes* m_ways;
  TapCuts* m_taps;
};

} // namespace tuvvo
