#include "points_file.h"

#include <QFileInfo>

#include <fstream>
#include <sstream>

namespace ember::app {

namespace {
constexpr std::streamoff mostFileBytes = 20'000'000;
} // namespace

Expected<PointsRead> pointsFromFile(const QString& path) {
    const auto refuse = [&](const std::string& why) {
        return Problem{"", QFileInfo(path).fileName().toStdString() + ": " + why};
    };
    std::ifstream in(path.toStdString(), std::ios::binary | std::ios::ate);
    if (!in) return refuse("it cannot be opened.");
    if (in.tellg() > mostFileBytes) return refuse("it is larger than 20 MB: no table of a valve.");
    in.seekg(0);
    std::stringstream all;
    all << in.rdbuf();
    auto read = pointsFromText(all.str());
    if (!read) return refuse(read.problem().text());
    return read;
}

} // namespace ember::app
