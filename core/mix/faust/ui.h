// What the classes that Faust generates ask for: where their parameters lie.
#pragma once

#include <string_view>
#include <utility>
#include <vector>

/// Faust's name for what is told about a program; nothing of it is needed.
struct Meta {
  void declare(const char*, const char*) {}
};

/// Faust's name for what controls are built of: it notes where each parameter is kept.
struct UI {
  std::vector<std::pair<std::string_view, float*>> places;

  void openVerticalBox(const char*) {}
  void openHorizontalBox(const char*) {}
  void closeBox() {}
  void declare(float*, const char*, const char*) {}
  void addNumEntry(const char* id, float* place, float, float, float, float) { add(id, place); }
  void addHorizontalSlider(const char* id, float* place, float, float, float, float) {
    add(id, place);
  }

private:
  void add(const char* id, float* place) { places.emplace_back(id, place); }
};
