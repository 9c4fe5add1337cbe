#include "crate/provenance_form.h"

#include "theme/theme.h"
#include "widgets/combo.h"

#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>

namespace tuvvo {

using theme::px;

ProvenanceForm::ProvenanceForm(QWidget* parent) : QWidget(parent) {
  m_form = new QFormLayout(this);
  m_form->setContentsMargins(px(2), px(4), px(8), px(4));
  m_form->setVerticalSpacing(px(5));
  m_form->setHorizontalSpacing(px(10));
  m_form->setLabelAlignment(Qt::AlignLeft);
  m_title = addText(tr("Title"), tr("of the recording"));
  m_maker = addText(tr("Made by"), tr("who plays, who recorded it"));
  m_from = addText(tr("From"), tr("disc, session, shop, place"));
  m_when = addText(tr("When"), tr("as you would write it"));
  m_recording = addPermission(tr("Recording"));
  m_recording->setToolTip(
      tr("What is known about the right to use the recording. A record, not legal advice."));
  m_composition = addPermission(tr("Composition"));
  m_composition->setToolTip(tr("What is known about the right to use what is played on it; often "
                               "someone else's than the recording's."));
  m_note = addText(tr("Note"), tr("whom you asked, where it is written"));
  m_tags = addText(tr("Tags"), tr("with commas between them"));
  m_stars = new Combo(tr("Stars"), tr("How much you like it"), this);
  m_stars->addItem(tr("none"));
  for (int n = 1; n <= 5; ++n) m_stars->addItem(QString(n, QChar(0x2605)));
  m_form->addRow(tr("Stars"), m_stars);
  connect(m_stars, &QComboBox::activated, this, [this] { keep(tr("Give stars")); });
  for (QWidget* label : findChildren<QLabel*>()) label->setFont(theme::font(theme::Type::Small));
}

QLineEdit* ProvenanceForm::addText(const QString& label, const QString& hint) {
  auto* line = new QLineEdit(this);
  line->setAccessibleName(label);
  line->setPlaceholderText(hint);
  line->setMaxLength(1000);
  m_form->addRow(label, line);
  connect(line, &QLineEdit::editingFinished, this,
          [this, label] { keep(tr("Rights and origin: %1").arg(label)); });
  return line;
}

QComboBox* ProvenanceForm::addPermission(const QString& label) {
  auto* combo = new Combo(label, {}, this);
  combo->addItems({tr("nothing recorded"), tr("own work"), tr("permission granted"),
                   tr("permission asked"), tr("open licence")});
  m_form->addRow(label, combo);
  connect(combo, &QComboBox::activated, this, [this] { keep(tr("Record permission")); });
  return combo;
}

void ProvenanceForm::setSubject(const Subject& subject) {
  m_filling = true;
  const bool same = subject.row == m_subject.row;
  m_subject = subject;
  const Provenance provenance = subject.any() ? subject.source->provenance : Provenance{};
  const auto fill = [&](QLineEdit* line, const std::string& text) {
    if (!same || !line->hasFocus()) line->setText(QString::fromStdString(text));
  };
  fill(m_title, provenance.title);
  fill(m_maker, provenance.maker);
  fill(m_from, provenance.from);
  fill(m_when, provenance.when);
  fill(m_note, provenance.note);
  QStringList tags;
  for (const auto& tag : subject.marks.tags) tags << QString::fromStdString(tag);
  fill(m_tags, tags.join(QStringLiteral(", ")).toStdString());
  m_recording->setCurrentIndex(int(provenance.recording));
  m_composition->setCurrentIndex(int(provenance.composition));
  m_stars->setCurrentIndex(subject.marks.stars);
  // Provenance belong to the sound: there must be one, and it must be known.
  const bool writable =
      subject.any() && !subject.source->hash.empty() && subject.row.scope != Scope::Service;
  for (QWidget* field : std::initializer_list<QWidget*>{
           m_title, m_maker, m_from, m_when, m_note, m_tags, m_recording, m_composition, m_stars})
    field->setEnabled(writable);
  m_filling = false;
}

Marks ProvenanceForm::written() const {
  Marks marks = m_subject.marks;
  Provenance& p = marks.provenance;
  p.title = m_title->text().trimmed().toStdString();
  p.maker = m_maker->text().trimmed().toStdString();
  p.from = m_from->text().trimmed().toStdString();
  p.when = m_when->text().trimmed().toStdString();
  p.note = m_note->text().trimmed().toStdString();
  p.recording = Permission(m_recording->currentIndex());
  p.composition = Permission(m_composition->currentIndex());
  marks.stars = m_stars->currentIndex();
  marks.tags.clear();
  for (const QString& tag : m_tags->text().split(QLatin1Char(','), Qt::SkipEmptyParts))
    if (!tag.trimmed().isEmpty()) marks.tags.push_back(tag.trimmed().toStdString());
  return marks;
}

void ProvenanceForm::keep(const QString& name) {
  if (m_filling || !m_subject.any()) return;
  const Marks marks = written();
  if (marks.provenance == m_subject.source->provenance && marks.tags == m_subject.marks.tags &&
      marks.stars == m_subject.marks.stars)
    return;
  emit edited(name, marks);
}

} // namespace tuvvo
