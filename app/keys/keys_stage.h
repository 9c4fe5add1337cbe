// Keys: the chosen key's sound.
#pragma once

#include "catch/catch_leaf.h"
#include "keys/controllers_leaf.h"
#include "keys/sound_leaf.h"
#include "keys/take_leaf.h"
#include "parts/stage_view.h"

class QLabel;
class QLineEdit;
class QStackedWidget;

namespace tuvvo {

class KeysStage : public StageView {
  Q_OBJECT
public:
  KeysStage(Session& session, QWidget* parent);

  /// "level", "envelope", "filters", "layers", "takes", "catch", "controllers", "sifter";
  /// "KEY/layers" chooses a key first.
  bool showLeaf(const QString& name) override;
  [[nodiscard]] SoundLeaf& sound() { return *m_sound; }
  [[nodiscard]] TakeLeaf& take() { return *m_take; }
  [[nodiscard]] CatchLeaf& catching() { return *m_catch; }

signals:
  void devicesWanted();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void addCommands();
  void refresh();
  void change(const QString& name, const std::function<void(Key&)>& change);
  void flip(const QString& name, bool solo);
  void setLast(int how);
  void openLeaf(int leaf);
  void step(int columns, int rows);

  QLineEdit* m_name;
  QLabel* m_about;
  Chip *m_hear, *m_clear;
  std::array<Chip*, 3> m_lasts{}; ///< to its end, held, round
  SoundLeaf* m_sound;
  TakeLeaf* m_take;
  CatchLeaf* m_catch;
  ControllersLeaf* m_controllers;
  QStackedWidget* m_leaves;
  std::array<Chip*, 4> m_tabs{};
};

} // namespace tuvvo
