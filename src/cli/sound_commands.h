#pragma once
// Takes with a sound device or on the practice bench, and what a sound device is like by itself.

namespace CLI {
class App;
}

namespace ember::cli {

void addSoundCommands(CLI::App& app, int& code);

} // namespace ember::cli
