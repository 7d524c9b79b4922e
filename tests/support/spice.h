#pragma once
// A schematic's operating point by a general circuit simulator, as a process of its own.
#include "wait.h"

#include "core/circuit/netlist_text.h"
#include "core/schematic/solve.h"

#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTemporaryDir>

#include <map>
#include <optional>

/// What the simulator prints of a netlist; nothing where it is not installed, empty where it did not end.
inline std::optional<QString> spicePrint(const std::string& netlist) {
    if (QStandardPaths::findExecutable("ngspice").isEmpty()) return std::nullopt;
    QTemporaryDir dir;
    QFile f(dir.filePath("a.cir"));
    if (!f.open(QIODevice::WriteOnly)) return std::nullopt;
    f.write(QByteArray::fromStdString(netlist));
    f.close();
    QProcess p;
    p.setProcessChannelMode(QProcess::MergedChannels);
    p.start("ngspice", {"-b", f.fileName()});
    if (!p.waitForFinished(ember::tests::longest())) return QString();
    return QString::fromUtf8(p.readAll());
}
/// A node's volts in what it printed of an operating point.
inline std::optional<double> spiceVolts(const QString& printed, const QString& node) {
    const auto m = QRegularExpression("(?:^|\\s)" + QRegularExpression::escape(node) + "\\s+([-+0-9.eE]+)\\s*$",
                                      QRegularExpression::MultilineOption)
                       .match(printed);
    return m.hasMatch() ? std::optional(m.captured(1).toDouble()) : std::nullopt;
}

/// Volts by index of net; nothing where the simulator is not installed, empty where it found none. `guess` (by net):
/// where it begins to look, no more; a point that does not fulfil its equations it leaves.
inline std::optional<std::map<int, double>> spiceOperatingPoint(const ember::schematic::Schematic& s,
                                                                const std::vector<double>& guess = {}) {
    const auto c = ember::schematic::circuitOf(s, ember::schematic::Electrodes::WithoutCapacitance);
    std::string start;
    for (std::size_t k = 1; k < guess.size(); ++k)
        start +=
            ".nodeset v(" + ember::circuit::nodeText(c.netlist, c.nodes[k]) + ")=" + std::to_string(guess[k]) + "\n";
    const auto printed = spicePrint("* a path\n" + ember::circuit::elementsText(c.netlist) + start +
                                    ".op\n.options reltol=1e-6 gmin=1e-14 rshunt=1e12\n.end\n");
    if (!printed) return std::nullopt;
    std::map<int, double> out;
    for (std::size_t k = 1; k < s.nets().size(); ++k)
        if (const auto volts =
                spiceVolts(*printed, QString::fromStdString(ember::circuit::nodeText(c.netlist, c.nodes[k]))))
            out[static_cast<int>(k)] = *volts;
    return out;
}
