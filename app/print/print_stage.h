// Print: the parts with the spectrum each occupies, loudness, what will be written, the source
// sheet.
#pragma once

#include "parts/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QComboBox;
class QLineEdit;

namespace tuvvo {

/// Parts by role, each as a strip with the spectrum that it really occupies and its level.
class PartStrips : public QWidget {
  Q_OBJECT
public:
  PartStrips(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
};

/// Integrated loudness against a target, range and true peak; then the source sheet.
class PrintSheet : public QWidget {
  Q_OBJECT
public:
  PrintSheet(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
};

class PrintStage : public StageView {
  Q_OBJECT
public:
  PrintStage(Session& session, QWidget* parent);
  /// What the controls say; the folder is the one that was written to last.
  [[nodiscard]] Session::PrintRequest request() const;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();

  QComboBox *m_format, *m_rate;
  QLineEdit* m_path;
  Chip *m_stems, *m_midi, *m_print;
  Slide* m_ring;
  bool m_pathTyped = false;
};

} // namespace tuvvo
