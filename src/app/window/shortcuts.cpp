#include "shortcuts.h"

namespace ember::app {

QString shortcutsTable() {
    return "<table cellspacing=6>"
           "<tr><td>Alt+1 ... Alt+0</td><td>go to a station</td></tr><tr><td>Ctrl+L</td><td>log line: <i>B+1 "
           "312</i>, or a sentence</td></tr>"
           "<tr><td>Tab, Shift+Tab</td><td>next, previous value</td></tr><tr><td>Up, Down</td><td>in a value: "
           "next of the E12 series; with Shift E96</td></tr>"
           "<tr><td>Enter, Esc</td><td>take the value, leave it as it was</td></tr><tr><td>Page Up, Page "
           "Down</td><td>First Power: previous, next reading</td></tr>"
           "<tr><td>F2</td><td>First Power: explain a reading in words</td></tr><tr><td>F5</td><td>First "
           "Power: read from the practice bench</td></tr>"
           "<tr><td>F8</td><td>I have switched off: the discharge clock "
           "starts</td></tr><tr><td>F6</td><td>findings shown or hidden</td></tr>"
           "<tr><td>Ins, Ctrl+Del, Ctrl+Left, Ctrl+Right</td><td>Supply, in a value: a part after it, remove "
           "it, move it along; the menu key offers the rest</td></tr>"
           "<tr><td>Left, Right; Ctrl with them</td><td>Stages: choose a stage; move it</td></tr>"
           "<tr><td>I, Enter, V, Ctrl+Del</td><td>Stages: insert after it, its menu, another valve, remove it; "
           "Del in a value removes the part; Ctrl++ and Ctrl+- zoom, Ctrl+0 shows all</td></tr>"
           "<tr><td>Arrows, Space, +, -, 0</td><td>Supply's curves: cursor, a mark to read against, zoom, "
           "all</td></tr>"
           "<tr><td>Arrows, Shift+arrows</td><td>Chassis: move 1 mm, 0.1 mm</td></tr>"
           "<tr><td>R, F, K, D, Shift+D, M, 0</td><td>Chassis: turn, turn over, lock, duplicate, mirror, "
           "measure, fit</td></tr>"
           "<tr><td>Enter, Backspace</td><td>Wiring: the joint's next state, the one before</td></tr>"
           "<tr><td>Ctrl+E</td><td>every value of the build, with search</td></tr>"
           "<tr><td>Ctrl+Z, Ctrl+Shift+Z</td><td>undo, redo</td></tr><tr><td>Ctrl+S, Ctrl+O, "
           "Ctrl+N</td><td>save, open, new</td></tr><tr><td>?</td><td>this sheet</td></tr></table>";
}

} // namespace ember::app
