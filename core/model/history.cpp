#include "model/history.h"

namespace tuvvo {

History::History(Project start) {
  m_steps.push_back({"Opened", std::make_shared<Project>(std::move(start))});
}

void History::apply(std::string name, Project next, const std::string& merge) {
  auto project = std::make_shared<Project>(std::move(next));
  if (!merge.empty() && merge == m_merge && m_place + 1 == m_steps.size() && m_place > 0) {
    m_steps.back().project = std::move(project);
    return;
  }
  m_steps.resize(m_place + 1);
  m_steps.push_back({std::move(name), std::move(project)});
  m_place = m_steps.size() - 1;
  m_merge = merge;
}

void History::undo() {
  if (canUndo()) goTo(m_place - 1);
}

void History::redo() {
  if (canRedo()) goTo(m_place + 1);
}

std::vector<std::string> History::names() const {
  std::vector<std::string> out;
  for (const auto& step : m_steps) out.push_back(step.name);
  return out;
}

void History::goTo(std::size_t place) {
  if (place >= m_steps.size()) return;
  m_place = place;
  m_merge.clear();
}

} // namespace tuvvo
