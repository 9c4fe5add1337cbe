// A source's provenance, tags and stars.
#pragma once

#include "crate/subject.h"

#include <QWidget>

class QComboBox;
class QFormLayout;
class QLineEdit;

namespace tuvvo {

class ProvenanceForm : public QWidget {
  Q_OBJECT
public:
  explicit ProvenanceForm(QWidget* parent);
  void setSubject(const Subject& subject);

signals:
  /// @param name  of the step of undo
  void edited(const QString& name, const tuvvo::Marks& marks);

private:
  QLineEdit* addText(const QString& label, const QString& hint);
  QComboBox* addPermission(const QString& label);
  [[nodiscard]] Marks written() const;
  void keep(const QString& name);

  Subject m_subject;
  QFormLayout* m_form;
  QLineEdit *m_title, *m_maker, *m_from, *m_when, *m_note, *m_tags;
  QComboBox *m_recording, *m_composition, *m_stars;
  bool m_filling = false;
};

} // namespace tuvvo
