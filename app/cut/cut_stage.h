// Cut: ways to cut, the waveform, the drift line, the chosen slice, the fit ruler.
#pragma once

#include "parts/stage_view.h"
#include "widgets/chip.h"

class QLabel;

namespace tuvvo {

class Auditions;
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
class StraightenRow;

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
  void refresh();
  void recut(const std::function<void(CutSettings&)>& change, const QString& merge = {});
  QWidget* makeLineUp();
  void arrange();

  SourceService& m_sources;
  Player& m_player;
  Transport& m_transport;
  WaveView* m_wave;
  FitPanel* m_fit;
  QWidget* m_lineUp; ///< in a low window this or the next
  SlicePanel* m_slice;
  QWidget* m_sliceArea; ///< scrolls it where there is no room
  StraightenRow* m_straighten;
  std::uint64_t m_orders = 0; ///< how often the slices were reordered: each time otherwise
  Chip *m_showWays, *m_showLineUp, *m_showSlice; ///< which
  QLabel *m_title, *m_about;
  CutModes* m_ways;
  TapCuts* m_taps;
};

} // namespace tuvvo
