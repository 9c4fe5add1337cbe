// Undo and redo without limit.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// A line of named states with a place in it. Edits that carry the same merge name one after the
/// other (a slide being dragged) make one step. Used on the interface thread.
class History {
public:
  explicit History(Project start);

  [[nodiscard]] const ProjectPtr& current() const { return m_steps[m_place].project; }
  /// Makes a new state the current one and forgets what had been undone.
  /// @param merge  not empty: replaces the current state if that was made under the same name
  void apply(std::string name, Project next, const std::string& merge = {});
  /// Ends merging: the next edit is a step of its own whatever its merge name.
  void settle() { m_merge.clear(); }

  [[nodiscard]] bool canUndo() const { return m_place > 0; }
  [[nodiscard]] bool canRedo() const { return m_place + 1 < m_steps.size(); }
  void undo();
  void redo();
  /// Steps by name, oldest first; the first is how the project was opened.
  [[nodiscard]] std::vector<std::string> names() const;
  [[nodiscard]] std::size_t place() const { return m_place; }
  /// Goes straight to a step of names().
  void goTo(std::size_t place);

private:
  struct Step {
    std::string name;
    ProjectPtr project;
  };
  std::vector<Step> m_steps;
  std::size_t m_place = 0;
  std::string m_merge;
};

} // namespace tuvvo
