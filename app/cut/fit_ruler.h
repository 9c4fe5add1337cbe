// Semitones on one edge, the tempo and key they give on the other, good meetings flagged.
#pragma once

#include "cut/fit.h"
#include "panel/picture_panel.h"

namespace tuvvo {

class FitRuler : public PicturePanel {
  Q_OBJECT
public:
  FitRuler(Panel& host, QWidget* parent);

  /// The chosen source against the beat; nothing when neither its tempo nor its key is known.
  [[nodiscard]] static std::optional<FitQuestion> question(const Panel& panel);
  /// Brings the chosen source to the beat so; a slice of it is heard.
  /// @param merge  moves of one gesture become one step
  static void apply(Panel& panel, FitMethod method, Semitones shift, const QString& merge = {});

protected:
  void draw(QPainter& p) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] const Source* source() const;
  [[nodiscard]] QRectF rowBox(int semitones) const;
  [[nodiscard]] int reach() const; ///< semitones up and down for which there is room
  void take(double semitones, const QString& merge = {});

  bool m_dragging = false;
};

} // namespace tuvvo
