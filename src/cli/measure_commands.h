#pragma once
// Signals to play, and captures to figures: "stimulus" and "measure".

namespace CLI {
class App;
}

namespace ember::cli {

/// Adds both commands; `code` gets the exit code of the one that was given.
void addMeasureCommands(CLI::App& app, int& code);

} // namespace ember::cli
