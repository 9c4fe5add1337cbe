// Every screen there is, for walks through all of them: pictures, figures, tests.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// A stage, and a part of it as StageView::showPanel() knows it.
struct Screen {
  Stage stage;
  const char* panel;
};
inline constexpr Screen kScreens[] = {
    {Stage::Crate, "beat/lantern row"},
    {Stage::Crate, "service"},
    {Stage::Crate, "papers"},
    {Stage::Cut, "lantern row/sound"},
    {Stage::Cut, "lantern row/edges"},
    {Stage::Cut, "lantern row/playing"},
    {Stage::Cut, "pier nine break/treat"},
    {Stage::Cut, "lantern row/match"},
    {Stage::Cut, "lantern row/out"},
    {Stage::Keys, "kick/level"},
    {Stage::Keys, "kick/envelope"},
    {Stage::Keys, "kick/filters"},
    {Stage::Keys, "kick/layers"},
    {Stage::Keys, "takes"},
    {Stage::Keys, "catch"},
    {Stage::Keys, "controllers"},
    {Stage::Beat, "feel"},
    {Stage::Beat, "pins"},
    {Stage::Beat, "break"},
    {Stage::Beat, "bass"},
    {Stage::Beat, "change"},
    {Stage::Beat, "room"},
    {Stage::Song, ""},
    {Stage::Print, ""},
};

} // namespace tuvvo
