// A panel that draws a picture, and draws it again only when something of it has changed.
#pragma once

#include "panel/panel.h"
#include "theme/theme.h"
#include "widgets/kept_picture.h"

namespace tuvvo {

/// While music plays, stages are painted many times a second and most pictures in them stay as they
/// are: those are copied. A change of the document, of what is chosen or of the focus has the
/// picture drawn again; a change of anything else has to be told with drawAnew(). Interface thread.
class PicturePanel : public Panel {
  Q_OBJECT
public:
  using Ground = QColor theme::Palette::*;
  /// @param ground  what lies under the picture; it fills the box first
  PicturePanel(Panel& host, QWidget* parent, Ground ground = &theme::Palette::ground);

protected:
  /// Something that draw() shows has changed.
  void drawAnew();
  /// All that stays.
  virtual void draw(QPainter& p) = 0;
  /// What moves or lights up while music plays, over the picture; nothing to begin with.
  virtual void drawMoving(QPainter&) {}
  void paintEvent(QPaintEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

private:
  Ground m_ground;
  int m_changes = 0;
  KeptPicture<int> m_picture;
};

} // namespace tuvvo
