// The sounds of the simulated sample service.
#pragma once

#include <filesystem>
#include <string>

namespace tuvvo::demo {

/// Writes a dozen short loops and single sounds into data/service with what was heard in them, and
/// catalogue.json. @returns false when something could not be written; a message has said what
bool makeService(const std::filesystem::path& data, const std::string& soundfont);

} // namespace tuvvo::demo
