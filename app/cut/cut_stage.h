// Cut: ways to cut, the waveform, the drift line, the chosen slice, the fit ruler.
#pragma once

#include "shell/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QLabel;

namespace tuvvo {

class WaveView;
class FitPanel;
class CutWays;
class TapCuts;

class CutStage : public StageView {
  Q_OBJECT
public:
  CutStage(Session& session, QWidget* parent);
  [[nodiscard]] WaveView& wave() { return *m_wave; }
  /// A source by its name; "NAME/straight" pulls it four fifths straight.
  bool showLeaf(const QString& name) override;

protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

private:
  void addCommands();
  void refresh();
  void recut(const std::function<void(CutSettings&)>& change, const QString& merge = {});
  void changeKey(const QString& name, const std::function<void(Key&)>& change);
  void changeCut(const QString& name, const std::function<void(Cut&)>& change);
  QWidget* makeSlicePanel();
  QWidget* makeLineUp();
  void arrange();

  WaveView* m_wave;
  FitPanel* m_fit;
  QWidget *m_lineUp, *m_slice;      ///< in a low window one of them
  Chip *m_showLineUp, *m_showSlice; ///< which
  QLabel *m_title, *m_about, *m_sliceTitle, *m_sliceAbout;
  CutWays* m_ways;
  TapCuts* m_taps;
  Slide *m_level, *m_pan, *m_tune, *m_fine, *m_fadeIn, *m_fadeOut;
};

} // namespace tuvvo
