// The chosen key's sound as one picture: its layers over time, its envelopes, its filters.
#pragma once

#include "panel/picture_panel.h"
#include "session/peaks_cache.h"

#include <QPainter>

namespace tuvvo {

/// Time on the left: a lane a layer, moved by its delay; the envelope over them; the filters'
/// envelope as a second, dashed line where it moves them. Frequency on the right: what the filters
/// let through, and where their envelope takes them. Everything is dragged where it stands; the
/// slides under the picture do the same for the keyboard.
class KeyPicture : public PicturePanel {
  Q_OBJECT
public:
  KeyPicture(Panel& host, PeaksCache& peaks, QWidget* parent);

  /// The layer whose slides are shown; 0 is the key's own sound.
  [[nodiscard]] int layer() const { return m_layer; }
  void setLayer(int layer);
  /// Shows the grips of what the filters' envelope moves; off to begin with.
  void showMoves(bool on);

  /// What can be dragged.
  enum class Grip {
    None,
    Attack,
    Sustain, ///< decay and sustain
    Release,
    AttackBend,
    DecayBend,
    ReleaseBend,
    FilterAttack,
    FilterSustain,
    HighPass,
    LowPass,
    HighMoves,
    LowMoves,
    Lane ///< a layer's delay and level
  };
  /// Where a grip stands, for tests; nothing where it is not there.
  [[nodiscard]] std::optional<QPointF> placeOf(Grip grip) const;
  [[nodiscard]] QRectF laneOf(int layer) const;

signals:
  void layerChosen(int layer);

protected:
  void draw(QPainter& p) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  bool event(QEvent* event) override;

private:
  struct Handle {
    Grip grip;
    QPointF at;
  };
  [[nodiscard]] const Key* key() const;
  [[nodiscard]] QRectF timeField() const;
  [[nodiscard]] QRectF filterField() const;
  /// The milliseconds that the time field is wide.
  [[nodiscard]] double shownMs(const Key& key) const;
  [[nodiscard]] double lengthMs(const Key& layer) const;
  [[nodiscard]] double xOf(double ms, const Key& key) const;
  [[nodiscard]] double xOfHz(double hz) const;
  [[nodiscard]] double hzAt(double x) const;
  /// Corners of an envelope in the time field: its beginning, top, end of hold, sustain, where it
  /// is let go, end.
  [[nodiscard]] std::array<QPointF, 6> corners(const Envelope& envelope, const Key& key) const;
  [[nodiscard]] QPolygonF lineOf(const Envelope& envelope, const Key& key) const;
  [[nodiscard]] std::vector<Handle> handles(const Key& key) const;
  [[nodiscard]] Grip gripAt(QPointF point) const;
  void drawLanes(QPainter& p, const Key& key);
  void drawLane(QPainter& p, const Key& key, int layer);
  void drawEnvelopes(QPainter& p, const Key& key);
  void drawFilters(QPainter& p, const Key& key);
  void drag(Key& key, Grip grip, QPointF at) const;

  PeaksCache& m_peaks;
  int m_layer = 0;
  Grip m_grip = Grip::None;
  QPointF m_pressed;
  LayerPlay m_pressedPlay;
  bool m_moved = false, m_showsMoves = false;
};

/// The layer as a key of its own; 0 is the key's own sound.
[[nodiscard]] Key layerAsKey(const Key& key, int layer);

} // namespace tuvvo
