#pragma once
// The circuit as a drawing.

namespace CLI {
class App;
}

namespace ember::cli {

void addDrawingCommand(CLI::App& app, int& code);

} // namespace ember::cli
