// Every start gets all its parts on a plate that takes them, in an arrangement.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/path.h"
#include "core/build/starts.h"
#include "core/chassis/fit.h"
#include "core/chassis/place_all.h"
#include "core/plan/solve.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::chassis;

class TestPlaceAll : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    void nothingIsMissingWhereAllIsPlaced() {
        Build demo = demoBuild();
        QVERIFY(missingParts(demo, catalogue).parts.empty());
        std::erase_if(demo.chassis.parts, [](const PlacedPart& p) { return p.of == "v3"; });
        const auto missing = missingParts(demo, catalogue);
        const auto v3 =
            std::find_if(missing.parts.begin(), missing.parts.end(), [](const PlacedPart& p) { return p.of == "v3"; });
        QVERIFY(v3 != missing.parts.end());
        QCOMPARE(v3->body, std::string("socket-noval-clip"));
    }

    void everyStartIsPlacedWithoutAMisfit_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyStartIsPlacedWithoutAMisfit() {
        QFETCH(QString, id);
        const Build begun = begunFrom(*startOf(id.toStdString()));
        const Build* start = &begun;
        const plan::Figures figures = plan::solveFigures(*start, catalogue);
        QVERIFY(figures.cold && !figures.cold->nodes.empty());
        const double volts = figures.cold->nodes[0].most;
        const auto edit = placeAll(*start, catalogue, figures);
        QVERIFY2(edit, edit ? "" : edit.problem().text().c_str());
        const auto done = apply(*start, *edit);
        QVERIFY2(done, done ? "" : done.problem().text().c_str());
        const auto left = missingParts(*done, catalogue);
        for (const PlacedPart& p : left.parts) QFAIL(qPrintable(QString::fromStdString(p.id + " " + p.of)));
        for (const std::string& u : left.unknown) QFAIL(u.c_str());
        for (const FitProblem& f : checkFit(done->chassis, assemble(done->chassis), volts))
            QFAIL(qPrintable(QString("%1 %2: %3 of %4 mm on %5 x %6")
                                 .arg(done->chassis.parts[f.a].id.c_str(), done->chassis.parts[f.b].id.c_str())
                                 .arg(f.gap * 1e3)
                                 .arg(f.wanted * 1e3)
                                 .arg(done->chassis.width * 1e3)
                                 .arg(done->chassis.depth * 1e3)));
        // Channels alike, to a tenth of a millimetre: mirrored, or shifted by the same way.
        const auto& channels = done->channels;
        if (channels.size() != 2 || bottlesOf(channels[0]).size() != bottlesOf(channels[1]).size()) return;
        std::vector<std::pair<double, double>> mirror, shift;
        for (std::size_t k = 0; k < bottlesOf(channels[0]).size(); ++k) {
            if (bottlesOf(channels[0])[k] == bottlesOf(channels[1])[k]) continue; // a section for each
            const auto at = [&](std::size_t ch) {
                return *std::find_if(done->chassis.parts.begin(), done->chassis.parts.end(),
                                     [&](const PlacedPart& p) { return p.of == bottlesOf(channels[ch])[k]; });
            };
            mirror.emplace_back(at(0).x + at(1).x, at(0).y - at(1).y);
            shift.emplace_back(at(0).x - at(1).x, at(0).y - at(1).y);
        }
        const auto same = [](const auto& all) {
            return std::all_of(all.begin(), all.end(), [&](const auto& v) {
                return std::abs(v.first - all[0].first) < 1e-4 && std::abs(v.second - all[0].second) < 1e-4;
            });
        };
        if (!mirror.empty()) QVERIFY(same(mirror) || same(shift));
    }

    /// A part that came later finds a free place; nothing that the builder placed moves.
    void whatStandsStays() {
        Build demo = demoBuild();
        const plan::Figures figures = plan::solveFigures(demo, catalogue);
        const double volts = figures.cold->nodes[0].most;
        std::erase_if(demo.chassis.parts, [](const PlacedPart& p) { return p.of == "c3"; });
        const std::size_t before = checkFit(demo.chassis, assemble(demo.chassis), volts).size();
        const auto edit = placeAll(demo, catalogue, figures);
        QVERIFY(edit);
        const auto done = apply(demo, *edit);
        QVERIFY(done);
        QCOMPARE(done->chassis.parts.size(), demo.chassis.parts.size() + 1);
        for (std::size_t k = 0; k < demo.chassis.parts.size(); ++k) {
            const PlacedPart &was = demo.chassis.parts[k], &is = done->chassis.parts[k];
            QVERIFY2(was.x == is.x && was.y == is.y && was.angle == is.angle && was.pinOne == is.pinOne, is.id.c_str());
        }
        QCOMPARE(done->chassis.parts.back().of, std::string("c3"));
        QCOMPARE(checkFit(done->chassis, assemble(done->chassis), volts).size(), before);
    }

    void itCanBeStopped() {
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!placeAll(begunFrom(*startOf("push-pull-pentode")), catalogue, {}, stop.get_token()));
    }
};

EMBER_TESTS(TestPlaceAll)
#include "test_place_all.moc"
