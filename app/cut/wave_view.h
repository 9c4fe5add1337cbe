// The waveform in one ink on a bar ruler, hit marks under it, slices as index tabs along the edge.
#pragma once

#include "model/resolved_source.h"
#include "panel/panel.h"
#include "session/peaks_cache.h"
#include "widgets/kept_picture.h"

#include <QTimer>

namespace tuvvo {

class WaveView : public Panel {
  Q_OBJECT
public:
  WaveView(Panel& host, PeaksCache& peaks, QWidget* parent);

  /// Shows the whole source.
  void showAll();
  /// Zooms by a factor around a place; never closer than 64 frames or wider than the source.
  void zoom(double factor, double aroundFrame);
  [[nodiscard]] double firstFrame() const { return m_first; }
  [[nodiscard]] double framesShown() const { return m_span; }
  [[nodiscard]] double frameAt(double x) const;
  [[nodiscard]] double xOf(double frame) const;
  void stepCut(int steps);
  /// Where the source is heard; below 0: nowhere.
  void showPlace(Seconds place);
  /// Slices that sound now light up. @param levels  of cuts, 0 to 1; those that rest are left out
  void showSounding(std::map<Id, float> levels);
  /// Asks what the hit at the chosen cut is (hit_names.cpp).
  void nameChosenHit();
  void nudgeStart(double milliseconds);

signals:
  void viewChanged();

protected:
  void contextMenuEvent(QContextMenuEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  struct Look {
    int changes = 0;
    double first = 0, span = 0;
    bool operator==(const Look&) const = default;
  };
  enum class Drag { None, Edge, End, Downbeat, Pan };
  [[nodiscard]] const Source* source() const;
  [[nodiscard]] QRectF ruler() const;
  [[nodiscard]] QRectF wave() const;
  [[nodiscard]] QRectF marks() const;
  [[nodiscard]] std::optional<Onset> hitNear(Seconds at, double withinS) const;
  void nameHit(const Onset& onset, QPoint where);
  [[nodiscard]] QRectF tabs() const;
  void keepInside();
  /// What `change` makes of the view is gone to over some frames.
  void glide(const std::function<void()>& change);
  void glideOn();
  /// Something other than the stretch that is shown has changed.
  void drawAnew();
  void drawGround(QPainter& p, const Source& source);
  void drawRuler(QPainter& p, const ResolvedSource& source);
  void drawSounding(QPainter& p, const Source& source, const Look& look);
  void drawOver(QPainter& p, const Source& source);
  void drawInk(QPainter& p, const Source& source);
  void drawEdges(QPainter& p, const Source& source);
  void drawChords(QPainter& p, const Source& source);
  void drawMarks(QPainter& p, const ResolvedSource& source);
  void drawTabs(QPainter& p, const Source& source);
  void drawTab(QPainter& p, const Cut& cut, double lit);
  [[nodiscard]] const Cut* cutAt(double frame) const;

  PeaksCache& m_peaks;
  int m_changes = 0;
  KeptPicture<Look> m_whole; ///< all of it, as it is while nothing sounds
  KeptPicture<Look> m_over;  ///< what of it lies over slices that sound
  Id m_shown = 0;
  double m_first = 0, m_span = 1;
  Seconds m_place{-1};
  std::map<Id, float> m_sounding;                  ///< cuts, and how loud they are
  std::optional<std::pair<double, double>> m_goal; ///< first frame and span that it glides to
  QTimer m_frames;                                 ///< runs while it does
  Drag m_drag = Drag::None;
  Id m_dragCut = 0;
  double m_pressX = 0, m_pressFirst = 0;
};

} // namespace tuvvo
