// A type that the catalogue does not list: fitted from its points, used like any other, kept in the file.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/own_types.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>

using namespace ember;

namespace {

/// What a sheet of a listed type would state, under another name.
OwnType sheetLike(const std::string& listed, const std::string& id, std::initializer_list<std::array<double, 3>> at) {
    const ValveType& type = *catalogue.valve(listed);
    const TypeSection& s = type.section(1);
    OwnType own;
    own.id = id;
    own.kind = s.pentode ? ValveKind::Pentode : ValveKind::Triode;
    own.sections = type.sections();
    own.pinsAs = listed;
    own.heaterVolts = type.heater.volts, own.heaterAmps = type.heater.amps;
    own.plateWatts = s.limits.plateWatts, own.plateVolts = s.limits.plateVolts;
    own.gridPlate = s.gridPlate, own.gridCathode = s.gridCathode, own.plateCathode = s.plateCathode;
    for (const auto& [plate, grid, screen] : at) {
        const ValveFigures f = figuresAt(s.law, plate, grid, screen);
        SheetPoint p;
        p.plate = plate, p.grid = grid, p.screen = s.pentode ? screen : 0;
        p.plateAmps = f.plateAmps, p.screenAmps = s.pentode ? f.screenAmps : 0;
        own.points.push_back(p);
    }
    return own;
}

OwnType likeEcc85() {
    return sheetLike("ECC85", "LF85",
                     {{250, -2, 0}, {250, -3, 0}, {200, -1, 0}, {150, -1.5, 0}, {100, -0.5, 0}, {250, -5, 0}});
}

} // namespace

class TestOwnTypes : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Between its points the fitted law gives the currents of the valve that the points are of.
    void pointsGiveTheValveBack() {
        const auto own = valveTypeOf(likeEcc85());
        QVERIFY(own.ok());
        const auto &real = catalogue.valve("ECC85")->section(1).law, &fitted = own->section(1).law;
        for (const auto& [plate, grid] : {std::pair(220.0, -2.0), {175.0, -1.3}, {240.0, -2.6}, {120.0, -0.8}}) {
            const ValveFigures a = figuresAt(real, plate, grid, 0), b = figuresAt(fitted, plate, grid, 0);
            QVERIFY2(std::abs(b.plateAmps / a.plateAmps - 1) < 0.05, qPrintable(QString::number(b.plateAmps)));
            QVERIFY2(std::abs(b.gm / a.gm - 1) < 0.1, qPrintable(QString::number(b.gm / a.gm)));
        }
        QVERIFY(own->section(1).fit.fitted < 0.02);
        QCOMPARE(own->sections(), 2);
        QCOMPARE(own->base, std::string("noval"));
        QVERIFY(own->section(2).pins.plate == catalogue.valve("ECC85")->section(2).pins.plate);
    }

    void aPentodesToo() {
        const OwnType own = sheetLike("EL84", "LF84",
                                      {{250, -7.3, 250},
                                       {250, -10, 250},
                                       {300, -10, 300},
                                       {100, -7.3, 250},
                                       {40, -7.3, 250},
                                       {200, -5, 200},
                                       {250, -16, 250}});
        const auto fitted = valveTypeOf(own);
        QVERIFY(fitted.ok());
        const auto& real = catalogue.valve("EL84")->section(1).law;
        for (const auto& [plate, grid, screen] : {std::array{270.0, -8.5, 270.0}, {150.0, -6, 220}, {60, -7.3, 250}}) {
            const ValveFigures a = figuresAt(real, plate, grid, screen),
                               b = figuresAt(fitted->section(1).law, plate, grid, screen);
            QVERIFY2(std::abs(b.plateAmps / a.plateAmps - 1) < 0.08, qPrintable(QString::number(b.plateAmps)));
            QVERIFY2(std::abs(b.screenAmps / a.screenAmps - 1) < 0.25, qPrintable(QString::number(b.screenAmps)));
        }
    }

    /// The demo with such a valve in place of the listed one plans as with it, in every solver, and the file keeps it.
    void anAmplifierIsPlannedWithIt() {
        Build b = demoBuild();
        b.types.push_back(likeEcc85());
        for (Valve& v : b.bottles)
            if (v.type == "ECC85") v.type = "LF85";
        const auto read = fromText(toText(b));
        QVERIFY2(read.ok(), read.ok() ? "" : read.problem().text().c_str());
        QCOMPARE(read->types.size(), std::size_t(1));
        QCOMPARE(read->types[0].points.size(), b.types[0].points.size());
        QCOMPARE(toText(*read), toText(b));
        QVERIFY(&catalogueOf(*read) == &catalogueOf(b)); // fitted once
        const auto with = plan::solveFigures(*read, catalogueOf(*read)),
                   listed = plan::solveFigures(demoBuild(), catalogue);
        QVERIFY(with.nominal && listed.nominal);
        QVERIFY(std::abs(with.nominal->nodes[0].mean - listed.nominal->nodes[0].mean) < 1);
        const auto &one = with.nominal->channels[0], &other = listed.nominal->channels[0];
        QCOMPARE(one.valves.size(), other.valves.size());
        for (std::size_t k = 0; k < one.valves.size(); ++k)
            QVERIFY(std::abs(one.valves[k].plate / other.valves[k].plate - 1) < 0.04);
    }

    void whatCannotBeIsSaid() {
        Build b = demoBuild();
        const auto refused = [&](OwnType own) {
            Build with = b;
            with.types.push_back(std::move(own));
            const auto read = fromText(toText(with));
            return read.ok() ? std::string() : read.problem().sentence;
        };
        OwnType own = likeEcc85();
        QCOMPARE(refused(own), std::string());
        own.id = "EL84";
        QVERIFY(refused(own).find("catalogue has EL84") != std::string::npos);
        own = likeEcc85();
        own.pinsAs = "Q99";
        QVERIFY(refused(own).find("Q99") != std::string::npos);
        own = likeEcc85();
        own.kind = ValveKind::Pentode;
        QVERIFY(refused(own).find("screen volts") != std::string::npos);
        own = likeEcc85();
        for (SheetPoint& p : own.points) p.plateAmps = 0;
        QVERIFY(refused(own).find("plate current") != std::string::npos);
        b.types.push_back(likeEcc85());
        QVERIFY(refused(likeEcc85()).find("two types") != std::string::npos);
    }

    /// Renamed, its valves go with it; it stays while a valve is of it.
    void itIsRenamedAndTakenAway() {
        Build b = *apply(demoBuild(), keepOwnType(demoBuild(), likeEcc85()));
        b.bottles[0].type = "LF85";
        OwnType renamed = b.types[0];
        renamed.id = "LF86";
        b = *apply(b, keepOwnType(b, renamed, "LF85"));
        QCOMPARE(b.types.size(), std::size_t(1));
        QCOMPARE(b.bottles[0].type, std::string("LF86"));
        QVERIFY(!apply(b, removeOwnType(b, "LF86")).ok());
        QVERIFY(!apply(b, removeOwnType(b, "LF99")).ok());
        b.bottles[0].type = "ECC85";
        const auto without = apply(b, removeOwnType(b, "LF86"));
        QVERIFY(without.ok() && without->types.empty());
    }

    /// A tracer's table of thousands of rows becomes points of the whole range.
    void aTracersTableIsThinned() {
        const auto& law = catalogue.valve("ECC85")->section(1).law;
        std::string table = "Va;Vg;Ia (mA)\n";
        for (int g = 0; g <= 40; ++g)
            for (int v = 10; v <= 300; v += 10)
                table += std::to_string(v) + ";" + std::to_string(-0.1 * g) + ";" +
                         std::to_string(1e3 * figuresAt(law, v, -0.1 * g, 0).plateAmps) + "\n";
        const auto read = pointsFromText(table);
        QVERIFY(read.ok());
        OwnType own = likeEcc85();
        own.points = sheetPoints(read->data);
        QVERIFY(own.points.size() <= mostSheetPoints && own.points.size() > 30);
        const auto fitted = valveTypeOf(own);
        QVERIFY(fitted.ok());
        const double real = figuresAt(law, 230, -2.2, 0).plateAmps;
        QVERIFY(std::abs(figuresAt(fitted->section(1).law, 230, -2.2, 0).plateAmps / real - 1) < 0.1);
    }
};

EMBER_TESTS(TestOwnTypes)
#include "test_own_types.moc"
