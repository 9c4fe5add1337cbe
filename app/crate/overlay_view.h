// Where the chosen source lies well over another one of the beat.
#pragma once

#include "crate/subject.h"
#include "cut/overlay.h"
#include "panel/panel.h"
#include "session/auditions.h"

class QListView;

namespace tuvvo {

class Combo;
class Label;
class OverlayModel;

class OverlayView : public Panel {
  Q_OBJECT
public:
  OverlayView(Panel& host, Auditions& auditions, QWidget* parent);
  void setSubject(const Subject& subject);

protected:
  void showEvent(QShowEvent* event) override;

private:
  void fill();
  void find();
  void play(int row);

  Auditions& m_auditions;
  Subject m_subject;
  SourcePtr m_under;
  Combo* m_other;
  Label* m_notice;
  OverlayModel* m_model;
  QListView* m_list;
  bool m_stale = true;
};

} // namespace tuvvo
