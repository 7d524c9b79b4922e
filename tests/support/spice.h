#pragma once
// A schematic's operating point by a general circuit simulator, as a process of its own.
#include "core/circuit/netlist_text.h"
#include "core/schematic/solve.h"

#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTemporaryDir>

#include <map>
#include <optional>

/// Volts by index of net; nothing where the simulator is not installed, empty where it found none. `guess` (by net):
/// where it begins to look, no more; a point that does not fulfil its equations it leaves.
inline std::optional<std::map<int, double>> spiceOperatingPoint(const ember::schematic::Schematic& s,
                                                                const std::vector<double>& guess = {}) {
    if (QStandardPaths::findExecutable("ngspice").isEmpty()) return std::nullopt;
    const auto c = ember::schematic::circuitOf(s, ember::schematic::Electrodes::WithoutCapacitance);
    QTemporaryDir dir;
    QFile f(dir.filePath("a.cir"));
    if (!f.open(QIODevice::WriteOnly)) return std::nullopt;
    std::string start;
    for (std::size_t k = 1; k < guess.size(); ++k)
        start +=
            ".nodeset v(" + ember::circuit::nodeText(c.netlist, c.nodes[k]) + ")=" + std::to_string(guess[k]) + "\n";
    f.write(QByteArray::fromStdString("* a path\n" + ember::circuit::elementsText(c.netlist) + start +
                                      ".op\n.options reltol=1e-6 gmin=1e-14 rshunt=1e12\n.end\n"));
    f.close();
    QProcess p;
    p.setProcessChannelMode(QProcess::MergedChannels);
    p.start("ngspice", {"-b", f.fileName()});
    std::map<int, double> out;
    if (!p.waitForFinished(10'000)) return out;
    const QString printed = QString::fromUtf8(p.readAll());
    for (std::size_t k = 1; k < s.nets().size(); ++k) {
        const auto node = QString::fromStdString(ember::circuit::nodeText(c.netlist, c.nodes[k]));
        const auto m = QRegularExpression("(?:^|\\s)" + QRegularExpression::escape(node) + "\\s+([-+0-9.eE]+)\\s*$",
                                          QRegularExpression::MultilineOption)
                           .match(printed);
        if (m.hasMatch()) out[static_cast<int>(k)] = m.captured(1).toDouble();
    }
    return out;
}
