// The exported netlists, run in a general circuit simulator: it finds the plan's operating point, response and volts.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"
#include "../support/wait.h"

#include "core/circuit/small_signal.h"
#include "core/plan/amplifier_netlist.h"
#include "core/plan/channel_circuit.h"
#include "core/plan/pin_figures.h"

#include <QFile>
#include <QProcess>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

class TestNetlist : public QObject {
    Q_OBJECT
    QTemporaryDir dir;
    Build demo = demoBuild();
    Steady nominal = solved(demo);

    /// What the simulator prints for this text, in batch mode.
    QString run(const std::string& text) {
        QFile f(dir.filePath("a.cir"));
        if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
        f.write(QByteArray::fromStdString(text));
        f.close();
        QProcess p;
        p.setProcessChannelMode(QProcess::MergedChannels);
        p.start("ngspice", {"-b", f.fileName()});
        if (!p.waitForFinished(ember::tests::longest())) qFatal("the simulator did not end");
        const QString out = QString::fromUtf8(p.readAll());
        if (p.exitCode() != 0) qWarning("%s", qPrintable(out.right(2000)));
        return out;
    }
    static QMap<QString, QString> nodesOf(const std::string& text) {
        QMap<QString, QString> out;
        static const QRegularExpression line("^\\* net (.*) (\\S+)$", QRegularExpression::MultilineOption);
        auto found = line.globalMatch(QString::fromStdString(text));
        while (found.hasNext()) {
            const auto m = found.next();
            out[m.captured(1)] = m.captured(2);
        }
        return out;
    }

  private Q_SLOTS:
    void initTestCase() { QVERIFY2(!QStandardPaths::findExecutable("ngspice").isEmpty(), "scripts/setup installs it"); }

    /// Every pin of every valve within 0.5 % or 50 mV.
    void theOperatingPointIsThePlans() {
        const auto text = amplifierNetlist(demo, catalogue, nominal, NetlistPart::All, NetlistAnalysis::Op);
        QVERIFY(text.ok());
        const QString printed = run(*text);
        const auto figures = schematicFigures(demo, catalogue, nominal);
        QVERIFY(figures.ok());
        const auto nodes = nodesOf(*text);
        int compared = 0;
        for (const PinFigure& p : figures->pins) {
            if (p.net.empty() || p.net == "ground") continue;
            const QString node = nodes.value(QString::fromStdString(p.net));
            QVERIFY2(!node.isEmpty(), p.net.c_str());
            const auto m = QRegularExpression("(?:^|\\s)" + node + "\\s+(\\S+)", QRegularExpression::MultilineOption)
                               .match(printed);
            QVERIFY2(m.hasMatch(), qPrintable(node + "\n" + printed.left(3000)));
            const double volts = m.captured(1).toDouble();
            QVERIFY2(
                std::abs(volts - p.volts) < 0.005 * std::abs(p.volts) + 0.05,
                qPrintable(QString("%1 %2: %3 against %4").arg(p.part.c_str(), p.net.c_str()).arg(volts).arg(p.volts)));
            ++compared;
        }
        QVERIFY2(compared >= 2 * (6 + 8), qPrintable(QString::number(compared)));
        for (const char* said : {"* pin v3 7 plate", "* pin v3 9 screen", "* pin v2 1 plate 1", "* net B+2 "})
            QVERIFY2(text->find(said) != std::string::npos, said);
    }

    /// The response of a channel within 0.2 dB.
    void theResponseIsThePlans() {
        const auto text = amplifierNetlist(demo, catalogue, nominal, NetlistPart::Channel, NetlistAnalysis::Ac, 0);
        QVERIFY(text.ok());
        const QString printed = run(*text);
        const HeldChannel h = heldChannel(demo, catalogue, 0, supplyOf(demo, nominal));
        schematic::Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        QVERIFY(point.ok());
        // index, hertz, dB
        static const QRegularExpression row("^\\d+\\s+(\\S+)\\s+(\\S+)\\s*$", QRegularExpression::MultilineOption);
        auto found = row.globalMatch(printed);
        int rows = 0;
        while (found.hasNext()) {
            const auto m = found.next();
            const double hertz = m.captured(1).toDouble(), db = m.captured(2).toDouble();
            const double own = 20 * std::log10(std::abs(a.gain(*point, h.source, h.output, hertz)));
            QVERIFY2(std::abs(db - own) < 0.2, qPrintable(QString("%1 Hz: %2 against %3").arg(hertz).arg(db).arg(own)));
            ++rows;
        }
        QVERIFY2(rows > 50, qPrintable(printed.left(2000)));
    }

    /// The supply alone through time: after two seconds its nodes are at their means, two percent apart.
    void theSupplyRunsThroughTime() {
        const auto text = amplifierNetlist(demo, catalogue, nominal, NetlistPart::Supply, NetlistAnalysis::Tran);
        QVERIFY(text.ok());
        const QString printed = run(*text);
        static const QRegularExpression row("^\\d+\\s+(\\S+)\\s+(\\S+)\\s+(\\S+)", QRegularExpression::MultilineOption);
        double sum[2] = {0, 0};
        int rows = 0;
        auto found = row.globalMatch(printed);
        while (found.hasNext()) {
            const auto m = found.next();
            if (m.captured(1).toDouble() < 1.9) continue;
            for (int k : {0, 1}) sum[k] += m.captured(k + 2).toDouble();
            ++rows;
        }
        QVERIFY2(rows > 500, qPrintable(printed.left(2000)));
        for (std::size_t k : {0u, 1u})
            QVERIFY2(std::abs(sum[k] / rows / nominal.nodes[k].mean - 1) < 0.02,
                     qPrintable(QString("%1 against %2").arg(sum[k] / rows).arg(nominal.nodes[k].mean)));
        QVERIFY(!amplifierNetlist(demo, catalogue, nominal, NetlistPart::Supply, NetlistAnalysis::Op).ok());
    }
};

EMBER_TESTS(TestNetlist)
#include "test_netlist.moc"
