// Controllers as the person has them: what they were taught, and what they do now.
#pragma once

#include "devices/midi_hub.h"
#include "midi/clock.h"
#include "midi/controllers.h"
#include "session/deck_hand.h"

#include <QHash>
#include <filesystem>

namespace tuvvo {

/// Keeps every controller's notes on the keys that the deck shows now, and what it was taught in
/// `controllers.json` beside the crate. Lives on the interface thread.
class ControllerService : public Service {
  Q_OBJECT
public:
  ControllerService(Document& document, Player& player, Transport& transport, DeckHand& hand);
  ~ControllerService() override;

  [[nodiscard]] MidiHub& hub() { return m_hub; }
  [[nodiscard]] ControllerSettings settings(const MidiPortName& port) const;
  void change(const MidiPortName& port, const std::function<void(ControllerSettings&)>& change);

  /// Plugs in and out; call it about once a second.
  void watch();
  /// Takes what has come; call it some thirty times a second.
  void poll();
  /// What a place of the deck plays now; null for nothing.
  [[nodiscard]] const Key* keyAt(DeckSpot spot) const {
    return m_hand.keyUnder(spot.row, spot.column);
  }
  /// What a controller did last, in words; empty for nothing yet.
  [[nodiscard]] QString lastOf(const MidiPortName& port) const;

  /// The next note of any controller plays this place of the deck from then on.
  void learnKey(const DeckSpot& spot);
  /// The next control that moves, moves this slide from then on.
  /// @param slide  its id; @param name  what it is called in the window
  void learnSlide(const QString& slide, const QString& name);
  void forgetSlide(const QString& slide);
  void stopLearning();
  /// What is waited for, in words; empty for nothing.
  [[nodiscard]] QString learning() const;
  /// The next seven strikes of a controller make its velocity curve.
  void fitCurve(const MidiPortName& port);

  static constexpr int kFitStrikes = 7;

signals:
  void changed();
  /// From a controller, as it sends them: 0 to 127.
  void noteCame(const tuvvo::MidiPortName& port, int note, int velocity);
  void controlCame(const tuvvo::MidiPortName& port, int number, int value);
  /// @param share  0 to 1 of the way between a slide's ends
  void slideMoved(const QString& slide, double share);

private:
  void layMaps();
  void came(const MidiHub::Came& came);
  void note(const MidiHub::Came& came);
  void control(const MidiHub::Came& came);
  void clock(const MidiHub::Came& came);
  void read();
  void write();

  Document& m_document;
  Player& m_player;
  Transport& m_transport;
  DeckHand& m_hand;
  MidiHub m_hub;
  Controllers m_controllers;
  std::filesystem::path m_file;
  bool m_readable = true; ///< else what is there is not overwritten
  std::optional<DeckSpot> m_learnKey;
  QString m_learnSlide, m_learnName;
  QHash<QString, std::vector<int>> m_fitting; ///< port: strikes so far
  QHash<QString, QString> m_last;
  std::map<std::string, ClockFollower> m_clocks;
  int m_rounds = 0;
};

} // namespace tuvvo
