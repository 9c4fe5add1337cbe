// The sound of the chosen key: one picture, and its figures as slides.
#pragma once

#include "keys/duck_row.h"
#include "keys/key_picture.h"
#include "model/key_parameters.h"
#include "panel/panel.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

class QGridLayout;
class QMenu;

namespace tuvvo {

class Button;
class Label;
class Tabs;
class Tick;

class SoundPanel : public Panel {
  Q_OBJECT
public:
  SoundPanel(Panel& host, PeaksCache& peaks, QWidget* parent);

  enum class Group { Level, Envelope, Filter, Layers };
  void showGroup(Group group);
  [[nodiscard]] Group group() const { return m_group; }
  [[nodiscard]] KeyPicture& picture() { return *m_picture; }

  /// Lays what another key plays under the chosen one.
  void addLayer(const SoundRef& sound, const LayerPlay& play = {});
  void takeLayerAway();
  void nextChoke();

private:
  /// A figure of a key; those of layers act on the chosen layer.
  struct Field {
    Group group;
    const KeyParameter* parameter;
    QString label;
    std::function<QString(double)> format;
  };
  [[nodiscard]] std::vector<Field> fields() const;
  void makeControls();
  void makePartRow();
  void refresh();
  void refreshPartRow();
  void offerLayers();
  void change(const QString& name, const std::function<void(Key&)>& change, bool settled = true);
  [[nodiscard]] const Key* key() const;

  KeyPicture* m_picture;
  Group m_group = Group::Level;
  Tabs* m_groups;
  struct Shown {
    Field field;
    Slide* slide;
  };
  std::vector<Shown> m_slides;
  QGridLayout* m_grid;
  Tick *m_mono, *m_legato, *m_inverted;
  Button *m_addLayer, *m_takeAway;
  Combo *m_way, *m_choke;
  Label* m_partTitle;
  DuckRow* m_duck;
  Slide* m_partLevel;
  std::array<Button*, 3> m_mutes{}, m_solos{}; ///< key, part, role
};

} // namespace tuvvo
