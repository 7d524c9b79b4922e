// What goes out to the drill is read back: centres within a hundredth of a millimetre.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/chassis/bodies.h"
#include "core/chassis/dxf.h"
#include "core/chassis/handling.h"
#include "core/chassis/hole_list.h"
#include "core/chassis/positions.h"
#include "core/chassis/template_svg.h"

#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <QXmlStreamReader>

#include <cmath>

using namespace ember;
using namespace ember::chassis;

class TestTemplates : public QObject {
    Q_OBJECT
    QTemporaryDir dir;
    const Chassis demo = demoBuild().chassis;

    std::filesystem::path path(const char* name) { return dir.filePath(name).toStdString(); }
    void write(const char* name, const QByteArray& content) {
        QFile f(dir.filePath(name));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(content);
    }
    int rounds(Face face) {
        int n = 0;
        for (const ListedHole& h : holesOf(demo, face)) n += h.shape == HoleShape::Round;
        return n;
    }

  private Q_SLOTS:
    void aTurnedPartsHolesTurnWithIt() {
        Chassis c;
        PlacedPart p = *makePart("socket-noval-clip");
        p.x = 0.1;
        p.y = 0.08;
        p.angle = 90;
        c.parts = {p};
        bool found = false;
        for (const ListedHole& h : holesOf(c, Face::Top))
            found = found || (std::abs(h.x - 0.1) < 1e-9 && std::abs(h.y - 0.08 - p.holes[2].x) < 1e-9);
        QVERIFY2(found, "the bolt that was to the right is now to the back");
    }

    void holesComeSmallestFirst() {
        const auto all = holesOf(demo, Face::Top);
        QVERIFY(all.size() > 30);
        for (std::size_t k = 1; k < all.size(); ++k)
            QVERIFY(std::max(all[k].width, all[k].height) >= std::max(all[k - 1].width, all[k - 1].height) - 1e-5);
    }

    void drillsAndPunchesAreTheUsualOnes_data() {
        QTest::addColumn<double>("mm");
        QTest::addColumn<QString>("tool");
        QTest::newRow("m3") << 3.2 << "drill 3.2 mm (1/8 in)";
        QTest::newRow("odd") << 4.46 << "drill 4.5 mm (11/64 in)";
        QTest::newRow("large drill") << 12.7 << "drill 12.5 mm (1/2 in)";
        QTest::newRow("noval") << 19.5 << "punch 20 mm (25/32 in)";
        QTest::newRow("octal") << 28.5 << "punch 28.3 mm (1 7/64 in)";
        QTest::newRow("too large to punch") << 75.0 << "saw or fly-cut 75 mm";
    }
    void drillsAndPunchesAreTheUsualOnes() {
        QFETCH(double, mm);
        QFETCH(QString, tool);
        QCOMPARE(QString::fromStdString(toolFor(mm * 1e-3)), tool);
    }

    void outlinesKeepTheirSizes() {
        for (const HoleShape shape :
             {HoleShape::Round, HoleShape::Rectangle, HoleShape::Slot, HoleShape::FlattedRound}) {
            const ListedHole h{"", shape, 0.05, 0.04, 0.02, shape == HoleShape::Round ? 0.02 : 0.012, 0, "", false};
            double left = 1, right = -1, low = 1, high = -1;
            for (const auto& [x, y] : outlineOf(h, 96)) {
                left = std::min(left, x);
                right = std::max(right, x);
                low = std::min(low, y);
                high = std::max(high, y);
            }
            QVERIFY(std::abs(right - left - h.width) < 2e-5);
            QVERIFY(std::abs(high - low - h.height) < 2e-5);
        }
    }

    /// SVG read back: every circle where the list has it, sizes in millimetres, closed outlines.
    void theSvgIsTrueToSize_data() {
        QTest::addColumn<int>("face");
        QTest::addColumn<bool>("mirrored");
        QTest::newRow("top") << 0 << false;
        QTest::newRow("underside") << 0 << true;
        QTest::newRow("back") << 2 << false;
    }
    void theSvgIsTrueToSize() {
        QFETCH(int, face);
        QFETCH(bool, mirrored);
        const auto f = static_cast<Face>(face);
        QXmlStreamReader xml(QByteArray::fromStdString(templateSvg(demo, f, {mirrored, true})));
        std::vector<std::array<double, 3>> circles;
        double width = 0, view = 0;
        while (!xml.atEnd()) {
            if (xml.readNext() != QXmlStreamReader::StartElement) continue;
            const auto a = xml.attributes();
            if (xml.name() == u"svg") {
                width = a.value("width").toString().remove("mm").toDouble();
                view = a.value("viewBox").toString().section(' ', 2, 2).toDouble();
            }
            if (xml.name() == u"circle")
                circles.push_back(
                    {a.value("cx").toDouble() - 10, a.value("cy").toDouble() - 10, 2 * a.value("r").toDouble()});
            if (xml.name() == u"path" && a.value("d").contains(u'L')) QVERIFY(a.value("d").endsWith(u'Z'));
        }
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        QCOMPARE(width, view); // one unit is one millimetre
        QCOMPARE(static_cast<int>(circles.size()), rounds(f));
        const Frame frame = frameOf(demo, f);
        for (const ListedHole& h : holesOf(demo, f)) {
            if (h.shape != HoleShape::Round) continue;
            const double x = mirrored ? (frame.width - h.x) * 1e3 : h.x * 1e3, y = (frame.height - h.y) * 1e3;
            QVERIFY(std::any_of(circles.begin(), circles.end(), [&](const auto& c) {
                return std::abs(c[0] - x) < 0.01 && std::abs(c[1] - y) < 0.01 && std::abs(c[2] - h.width * 1e3) < 0.01;
            }));
        }
    }

    void theDxfComesBackAsItWent() {
        QVERIFY(writeTemplateDxf(demo, Face::Top, path("top.dxf")).ok());
        const auto back = readDxf(path("top.dxf"));
        QVERIFY2(back.ok(), back.ok() ? "" : back.problem().text().c_str());
        QVERIFY(std::abs(back->width - demo.width) < 1e-5 && std::abs(back->height - demo.depth) < 1e-5);
        const auto all = holesOf(demo, Face::Top);
        QCOMPARE(back->holes.size(), all.size());
        for (const ListedHole& h : all)
            QVERIFY2(std::any_of(back->holes.begin(), back->holes.end(),
                                 [&](const Hole& g) {
                                     return std::hypot(g.x - h.x, g.y - h.y) < 1e-5 &&
                                            std::abs(g.width - h.width) < 1e-5;
                                 }),
                     h.part.c_str());
    }

    void theDxfHasItsLayers() {
        QVERIFY(writeTemplateDxf(demo, Face::Back, path("back.dxf")).ok());
        QFile f(dir.filePath("back.dxf"));
        QVERIFY(f.open(QIODevice::ReadOnly));
        const QString all = QString::fromUtf8(f.readAll());
        for (const char* layer : {"cut", "drill", "engrave"})
            QVERIFY(all.contains(QRegularExpression(QString("\\n%1\\r?\\n").arg(layer))));
        QVERIFY(!writeTemplateDxf(demo, Face::Back, "/nowhere/back.dxf").ok());
    }

    void aBrokenDrawingNamesTheLine_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::addColumn<QString>("said");
        QTest::newRow("empty") << QByteArray() << "cut off";
        QTest::newRow("prose") << QByteArray("dear sir\nplease find enclosed\n") << "line 1";
        QTest::newRow("cut off") << QByteArray("0\nSECTION\n2\nENTITIES\n0\n") << "line 5";
        QTest::newRow("damaged") << QByteArray("0\nSECTION\n2\nENTITIES\nx7\nCIRCLE\n0\nEOF\n") << "line 5";
        QTest::newRow("nothing in it") << QByteArray("0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n") << "no circle";
    }
    void aBrokenDrawingNamesTheLine() {
        QFETCH(QByteArray, content);
        QFETCH(QString, said);
        write("broken.dxf", content);
        const auto d = readDxf(path("broken.dxf"));
        QVERIFY(!d.ok());
        QVERIFY2(QString::fromStdString(d.problem().text()).contains(said), d.problem().text().c_str());
        QVERIFY(!readDxf(path("none.dxf")).ok());
    }

    void positionsGoOutAndComeBack() {
        Build b = demoBuild();
        const std::string table = positionsTable(b.chassis);
        for (PlacedPart& p : b.chassis.parts) {
            p.x += 0.01;
            p.angle = 0;
        }
        const auto edit = positionsFromTable(b, table);
        QVERIFY2(edit.ok(), edit.ok() ? "" : edit.problem().text().c_str());
        const auto back = apply(b, *edit);
        QVERIFY(back.ok());
        for (std::size_t k = 0; k < demo.parts.size(); ++k) {
            QVERIFY(std::abs(back->chassis.parts[k].x - demo.parts[k].x) < 1e-6);
            QVERIFY(std::abs(back->chassis.parts[k].angle - demo.parts[k].angle) < 1e-6);
        }
    }

    void positionsWithSemicolonsAndCommas() {
        const auto edit = positionsFromTable(demoBuild(), "part;x mm;y mm\np-c1;100,5;20\n");
        QVERIFY(edit.ok());
        const auto b = apply(demoBuild(), *edit);
        for (const PlacedPart& p : b->chassis.parts)
            if (p.id == "p-c1") QVERIFY(std::abs(p.x - 0.1005) < 1e-9 && std::abs(p.y - 0.02) < 1e-9);
    }

    void aBrokenTableNamesTheLine_data() {
        QTest::addColumn<QString>("table");
        QTest::addColumn<QString>("said");
        QTest::newRow("empty") << ""
                               << "line 1";
        QTest::newRow("no head") << "p-c1,100,20\n"
                                 << "\"part\"";
        QTest::newRow("unknown part") << "part,x mm,y mm\np-c1,1,1\np-zz,1,1\n"
                                      << "line 3: this layout has no part \"p-zz\"";
        QTest::newRow("not a number") << "part,x mm,y mm\np-c1,here,1\n"
                                      << "line 2: \"here\"";
        QTest::newRow("nothing") << "part,x mm,y mm\n"
                                 << "no part";
    }
    void aBrokenTableNamesTheLine() {
        QFETCH(QString, table);
        QFETCH(QString, said);
        const auto edit = positionsFromTable(demoBuild(), table.toStdString());
        QVERIFY(!edit.ok());
        QVERIFY2(QString::fromStdString(edit.problem().text()).contains(said), edit.problem().text().c_str());
    }

    void theHoleListIsATable() {
        const QStringList lines = QString::fromStdString(holeTable(demo, Face::Top)).split('\n', Qt::SkipEmptyParts);
        QCOMPARE(static_cast<std::size_t>(lines.size()), holesOf(demo, Face::Top).size() + 1);
        QVERIFY(lines[0].startsWith("part,shape"));
    }

    void aBoardsOwnHolesGoThroughBothBoards() {
        Chassis c;
        PlacedPart board = *makePart("board-turret");
        board.id = "board";
        board.x = 0.15;
        board.y = 0.1;
        PlacedPart socket = *makePart("socket-noval-clip");
        socket.id = "s";
        socket.x = 0.15;
        socket.y = 0.11;
        c.parts = {board, socket};
        const DrillingOverlay o = overlayOf(c, 0);
        QVERIFY(std::abs(o.width - 0.164) < 1e-9);
        int through = 0, alone = 0;
        for (const auto& e : o.holes) (e.through ? through : alone)++;
        QCOMPARE(through, 4);
        QCOMPARE(alone, 3); // the socket's, under the board
        const std::string svg = overlaySvg(c, Face::Top, o);
        QCOMPARE(QString::fromStdString(svg).count("h6m-3 -3v6"), 4); // a cross where both are drilled
    }

    void twoTopsAlikeAreDrilledAsOne() {
        Chassis one;
        PlacedPart socket = *makePart("socket-noval-clip");
        socket.id = "s";
        socket.x = 0.15;
        socket.y = 0.11;
        one.parts = {socket};
        Chassis two = one;
        auto o = overlayOf(one, two, Face::Top);
        QVERIFY(std::all_of(o.holes.begin(), o.holes.end(), [](const auto& e) { return e.through; }));
        two.parts[0].x += 5e-4;
        o = overlayOf(one, two, Face::Top);
        QCOMPARE(o.holes.size(), std::size_t(6));
        QVERIFY(std::none_of(o.holes.begin(), o.holes.end(), [](const auto& e) { return e.through; }));
        QCOMPARE(std::count_if(o.holes.begin(), o.holes.end(), [](const auto& e) { return e.second; }), 3);
    }

    /// With the sheets that are drilled by: eyes, edges, and the iron that is lifted on last.
    void whatIsHeavyIsSaidWithItsKilograms() {
        Chassis c;
        QVERIFY(handlingCaution(c).find("goggles") != std::string::npos);
        QVERIFY(handlingCaution(c).find("kg") == std::string::npos);
        PlacedPart iron = *makePart("socket-noval-clip"), light = iron;
        iron.id = "p-pt1", iron.of = "pt1", iron.mass = 3.2, light.mass = 0.4;
        c.parts = {light, iron};
        const auto words = QString::fromStdString(handlingCaution(c));
        QVERIFY2(words.contains("3.2 kg") && words.contains("3.6 kg") && words.contains("PT1"), qPrintable(words));
    }

    void theDatumEdgesAddUpToTheFace() {
        Chassis c;
        PlacedPart socket = *makePart("socket-noval-clip");
        socket.id = "s";
        socket.x = 0.1;
        socket.y = 0.06;
        c.parts = {socket};
        const auto first = [&](Datum d) {
            const auto rows = QString::fromStdString(holeTable(c, Face::Top, d)).split('\n');
            return rows[1].split(',');
        };
        const auto a = first({}), b = first({true, true});
        QVERIFY(std::abs(a[2].toDouble() + b[2].toDouble() - c.width * 1e3) < 0.011);
        QVERIFY(std::abs(a[3].toDouble() + b[3].toDouble() - c.depth * 1e3) < 0.011);
    }
};

EMBER_TESTS(TestTemplates)
#include "test_templates.moc"
