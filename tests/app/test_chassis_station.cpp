// The plate driven as a builder would: keys, mouse, tray, templates.

#include "../support/chassis_test.h"
#include "../support/suite.h"

#include "app/widgets/figure_list.h"
#include "app/widgets/quantity_field.h"
#include "app/window/log_line.h"

#include <QFile>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QRegularExpression>
#include <QStandardPaths>
#include <QTransform>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestChassisStation : public ChassisTest {
    Q_OBJECT
    QPoint pixel(const PlacedPart& p) { return plate()->pixelOf(p.x, p.y).toPoint(); }

    /// Middles of the closed outlines of an SVG whose units are points, in millimetres of the sheet, y downward.
    static std::vector<QPointF> outlineCentres(const QString& svg) {
        std::vector<QPointF> out;
        static const QRegularExpression path("<path[^>]* d=\"([^\"]+)\"(?:[^>]*transform=\"matrix\\(([^)]+)\\)\")?"),
            pair("(-?[0-9.]+)[ ,]+(-?[0-9.]+)");
        for (auto all = path.globalMatch(svg); all.hasNext();) {
            const auto one = all.next();
            const QStringList m = one.captured(2).split(QRegularExpression("[ ,]+"));
            const QTransform t = m.size() == 6 ? QTransform(m[0].toDouble(), m[1].toDouble(), m[2].toDouble(),
                                                            m[3].toDouble(), m[4].toDouble(), m[5].toDouble())
                                               : QTransform();
            QPolygonF points;
            for (auto numbers = pair.globalMatch(one.captured(1)); numbers.hasNext();) {
                const auto n = numbers.next();
                points << t.map(QPointF(n.captured(1).toDouble(), n.captured(2).toDouble()));
            }
            if (points.size() > 12) out.push_back(points.boundingRect().center() * (25.4 / 72));
        }
        return out;
    }

  private Q_SLOTS:
    void arrowsMoveByMillimetresAndTenths() {
        w->go("chassis");
        choose("p-c2");
        const double x = part("p-c2").x, y = part("p-c2").y;
        QTest::keyClick(plate(), Qt::Key_Right);
        QTest::keyClick(plate(), Qt::Key_Up);
        QTest::keyClick(plate(), Qt::Key_Left, Qt::ShiftModifier);
        QVERIFY(std::abs(part("p-c2").x - x - 0.0009) < 1e-9);
        QVERIFY(std::abs(part("p-c2").y - y - 0.001) < 1e-9);
        QVERIFY2(doc().undoStack().undoText().contains("C2"), qPrintable(doc().undoStack().undoText()));
        for (int k = 0; k < 3; ++k) doc().undoStack().undo();
        QVERIFY(std::abs(part("p-c2").x - x) < 1e-12);
    }

    void rTurnsAndFTurnsThePlateOver() {
        w->go("chassis");
        choose("p-l1");
        QTest::keyClick(plate(), Qt::Key_R);
        QVERIFY(std::abs(part("p-l1").angle - 15) < 1e-9);
        QTest::keyClick(plate(), Qt::Key_R, Qt::ShiftModifier);
        QTest::keyClick(plate(), Qt::Key_R, Qt::ShiftModifier);
        QVERIFY(std::abs(part("p-l1").angle + 15) < 1e-9);
        const QPoint above = pixel(part("p-l1"));
        QTest::keyClick(plate(), Qt::Key_F);
        QVERIFY(plate()->side().fromBelow);
        const QPoint below = pixel(part("p-l1"));
        QVERIFY2(std::abs((above.x() + below.x()) / 2.0 -
                          (plate()->pixelOf(0, 0).x() + plate()->pixelOf(doc().build().chassis.width, 0).x()) / 2) <
                     1.5,
                 "mirrored about the middle");
        // Right is still right as seen: the part's own x falls.
        const double x = part("p-l1").x;
        QTest::keyClick(plate(), Qt::Key_Right);
        QVERIFY(part("p-l1").x < x);
        QTest::keyClick(plate(), Qt::Key_F);
        QVERIFY(!plate()->side().fromBelow);
    }

    void draggingIsOneEditAndAnswersOnTheWay() {
        w->go("chassis");
        draw();
        const std::size_t k = indexOf("p-c2");
        const QPoint from = pixel(part("p-c2")), over = pixel(part("p-c3"));
        const int before = doc().undoStack().count();
        QTest::mousePress(plate(), Qt::LeftButton, {}, from);
        for (int n = 1; n <= 8; ++n) QTest::mouseMove(plate(), from + (over - from) * n / 8);
        QCOMPARE(doc().undoStack().count(), before); // not an edit yet
        bool touching = false;
        for (const auto& f : plate()->layout().fit)
            touching = touching || (f.kind == chassis::FitKind::Touching && (f.a == k || f.b == k));
        QVERIFY2(touching, "C2 over C3 shows while it is held");
        QTest::mouseMove(plate(), from + QPoint(0, 40));
        QTest::mouseRelease(plate(), Qt::LeftButton, {}, from + QPoint(0, 40));
        QCOMPARE(doc().undoStack().count(), before + 1);
        doc().undoStack().undo();
        QCOMPARE(pixel(part("p-c2")), from);
    }

    void escapeDropsADrag() {
        w->go("chassis");
        draw();
        const QPoint from = pixel(part("p-v3"));
        const double x = part("p-v3").x;
        QTest::mousePress(plate(), Qt::LeftButton, {}, from);
        QTest::mouseMove(plate(), from + QPoint(60, 0));
        QTest::keyClick(plate(), Qt::Key_Escape);
        QTest::mouseRelease(plate(), Qt::LeftButton, {}, from + QPoint(60, 0));
        QCOMPARE(part("p-v3").x, x);
    }

    void aLockedPartStays() {
        w->go("chassis");
        choose("p-c2");
        QTest::keyClick(plate(), Qt::Key_K);
        QVERIFY(part("p-c2").locked);
        const double x = part("p-c2").x;
        QTest::keyClick(plate(), Qt::Key_Right);
        QCOMPARE(part("p-c2").x, x);
        QTest::keyClick(plate(), Qt::Key_K);
        QTest::keyClick(plate(), Qt::Key_Right);
        QVERIFY(part("p-c2").x > x);
    }

    void tabWalksThroughTheParts() {
        w->go("chassis");
        plate()->select({});
        plate()->setFocus();
        QTest::keyClick(plate(), Qt::Key_Tab);
        QCOMPARE(plate()->selection().size(), std::size_t(1));
        const auto first = plate()->selection()[0];
        QTest::keyClick(plate(), Qt::Key_Tab);
        QVERIFY(plate()->selection()[0] != first);
        QVERIFY(plate()->accessibleDescription().contains("mm"));
    }

    void alignAndDistribute() {
        w->go("chassis");
        const std::vector<std::size_t> row{indexOf("p-v3"), indexOf("p-v4"), indexOf("p-v6")};
        plate()->select({row[1]});
        plate()->nudge(0.003, 0.006);
        plate()->select(row);
        plate()->align(PlateView::Line::Middle);
        for (const auto k : row) QVERIFY(std::abs(doc().build().chassis.parts[k].y - part("p-v3").y) < 1e-9);
        plate()->distribute(true);
        QVERIFY(std::abs(part("p-v4").x - (part("p-v3").x + part("p-v6").x) / 2) < 1e-9);
    }

    void duplicateMirrorAndTakeAway() {
        w->go("chassis");
        const auto count = doc().build().chassis.parts.size();
        choose("p-c2");
        QTest::keyClick(plate(), Qt::Key_D);
        QCOMPARE(doc().build().chassis.parts.size(), count + 1);
        QVERIFY(doc().build().chassis.parts.back().id != "p-c2");
        QTest::keyClick(plate(), Qt::Key_Delete);
        QCOMPARE(doc().build().chassis.parts.size(), count);
        choose("p-v2");
        QTest::keyClick(plate(), Qt::Key_D, Qt::ShiftModifier);
        QVERIFY(std::abs(doc().build().chassis.parts.back().x - (doc().build().chassis.width - part("p-v2").x)) < 1e-9);
        doc().undoStack().undo();
        QCOMPARE(doc().build().chassis.parts.size(), count);
    }

    void theTrayPlacesWhereItStandsFree() {
        w->go("chassis");
        auto* tray = child<QLineEdit>("tray");
        const auto count = doc().build().chassis.parts.size();
        type(tray, "octal clip");
        QCOMPARE(doc().build().chassis.parts.size(), count + 1);
        const std::size_t fresh = count;
        QCOMPARE(doc().build().chassis.parts[fresh].body, std::string("socket-octal-clip"));
        for (const auto& f : plate()->layout().fit) QVERIFY2(f.a != fresh && f.b != fresh, "it touches nothing");
        type(tray, "choke upright 40");
        QCOMPARE(doc().build().chassis.parts.back().voltAmperes, 40.0);
        type(tray, "flux capacitor gearbox");
        QCOMPARE(doc().build().chassis.parts.size(), count + 2);
        QVERIFY(w->logLine()->verdict().contains("flux capacitor gearbox"));
        tray->clear();
    }

    void aPositionIsTypedToo() {
        w->go("chassis");
        choose("p-c2");
        auto* x = child<QuantityField>("part-x");
        QVERIFY(x && x->isVisible());
        type(x, "210.5 mm");
        QVERIFY(std::abs(part("p-c2").x - 0.2105) < 1e-9);
        type(x, "five");
        QVERIFY(!x->problem().isEmpty());
        QTest::keyClick(x, Qt::Key_Escape);
    }

    void theFixOfAFindingIsOneClick() {
        w->go("chassis");
        settle(); // a mend is offered once it was tried
        QPushButton* fix = nullptr;
        for (auto* b : w->findChildren<QPushButton*>())
            if (b->objectName() == "fix-too-near/p-v1/p-c1") fix = b;
        QVERIFY(fix);
        fix->click();
        waitForFigures();
        for (const auto& f : doc().findings()) QVERIFY(f.id != "too-near/p-v1/p-c1");
    }

    void layersAndFacesPaint() {
        w->go("chassis");
        const QImage before = plate()->grab().toImage();
        for (const char* layer : {"field", "heat", "sag", "holes"}) {
            auto* b = child<QPushButton>(QString("layer-") + layer);
            b->setChecked(true);
            QVERIFY2(plate()->grab().toImage() != before, layer);
            b->setChecked(false);
        }
        for (const char* face : {"front", "back", "left", "right", "underside", "above"}) {
            QTest::mouseClick(child<QPushButton>(QString("face-") + face), Qt::LeftButton);
            QVERIFY(!plate()->grab().isNull());
        }
        child<QPushButton>("inches")->setChecked(true);
        QVERIFY(plate()->grab().toImage() != before);
    }

    void measuringSaysTheDistance() {
        w->go("chassis");
        draw();
        QTest::keyClick(plate(), Qt::Key_M);
        QTest::mousePress(plate(), Qt::LeftButton, {}, plate()->pixelOf(0.05, 0.05).toPoint());
        QTest::mouseMove(plate(), plate()->pixelOf(0.15, 0.05).toPoint());
        QTest::mouseRelease(plate(), Qt::LeftButton, {}, plate()->pixelOf(0.15, 0.05).toPoint());
        QVERIFY(plate()->selection().empty());
        QTest::keyClick(plate(), Qt::Key_Escape);
        QVERIFY(doc().undoStack().count() == 0);
    }

    /// The PDF's page is A4, and its sheets are as many as the face needs.
    void templatesAreWritten() {
        w->go("chassis");
        for (const char* name : {"t.pdf", "t.svg", "t.dxf", "t.csv", "t-positions.csv"}) {
            const auto done = station()->exportTo(dir.filePath(name));
            QVERIFY2(done.ok(), done.ok() ? "" : done.problem().text().c_str());
            QVERIFY(QFile(dir.filePath(name)).size() > 500);
        }
        QFile pdf(dir.filePath("t.pdf"));
        QVERIFY(pdf.open(QIODevice::ReadOnly));
        const QByteArray all = pdf.readAll();
        const auto box = QRegularExpression("/MediaBox \\[0 0 ([0-9.]+) ([0-9.]+)\\]").match(QString::fromLatin1(all));
        QVERIFY2(std::abs(box.captured(1).toDouble() - 841.89) < 0.6 &&
                     std::abs(box.captured(2).toDouble() - 595.28) < 0.6,
                 qPrintable("A4, lying: " + box.captured(0)));
        QCOMPARE(all.count("/Type /Page\n"), qsizetype(4)); // 380 x 250 mm
        QVERIFY(!station()->exportTo("/nowhere/t.pdf").ok());
        QVERIFY(!station()->exportTo(dir.filePath("t.png")).ok());
        QVERIFY(station()->importFrom(dir.filePath("t-positions.csv")).ok());
        QVERIFY(station()->importFrom(dir.filePath("t.dxf")).ok());
        QVERIFY(doc().build().chassis.given.size() > 30);
        QVERIFY(!station()->importFrom(dir.filePath("t.csv")).ok());
    }

    void anEmptyPlateSaysWhatToDo() {
        Build b = doc().build();
        b.chassis.parts.clear();
        doc().setBuild(b, {});
        w->go("chassis");
        QVERIFY(child<FigureList>("layoutFigures")->text().contains("No part is placed"));
        QTest::keyClick(plate(), Qt::Key_Tab);
        QTest::keyClick(plate(), Qt::Key_Right);
        QTest::keyClick(plate(), Qt::Key_Delete);
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
    }

    void aDraggedPartComesToRestInEqualSteps() {
        w->go("chassis");
        settleSteady();
        plate()->setGrid(0);
        // V3, V4 stand 48 mm apart: a part dragged to 47.6 mm beyond V4 is drawn to 48.
        const double from = part("p-v3").x, to = part("p-v4").x;
        const std::size_t k = indexOf("p-c3");
        const QPoint start = pixel(part("p-c3")), end = plate()->pixelOf(2 * to - from - 0.0004, 0.15).toPoint();
        QTest::mousePress(plate(), Qt::LeftButton, {}, start);
        for (int n = 1; n <= 8; ++n) QTest::mouseMove(plate(), start + (end - start) * n / 8);
        QTest::mouseRelease(plate(), Qt::LeftButton, {}, end);
        QVERIFY2(std::abs(doc().build().chassis.parts[k].x - (2 * to - from)) < 1e-6,
                 qPrintable(QString::number(doc().build().chassis.parts[k].x)));
    }

    void mirroringNamesTheOtherChannelsParts() {
        w->go("chassis");
        choose("p-v5");
        QTest::keyClick(plate(), Qt::Key_Delete);
        choose("p-v2");
        QTest::keyClick(plate(), Qt::Key_D, Qt::ShiftModifier);
        const PlacedPart& mirrored = doc().build().chassis.parts.back();
        QCOMPARE(mirrored.of, std::string("v5"));
        QVERIFY(std::abs(mirrored.x - (doc().build().chassis.width - 0.04)) < 1e-9);
        QTest::keyClick(plate(), Qt::Key_D, Qt::ShiftModifier); // both are placed now
        QCOMPARE(doc().build().chassis.parts.back().of, std::string());
    }

    void theHoleListMeasuresFromTheChosenEdges() {
        w->go("chassis");
        QAction* right = nullptr;
        for (QAction* a : station()->findChildren<QAction*>())
            if (a->text().startsWith("right and back")) right = a;
        QVERIFY(right);
        right->trigger();
        QVERIFY(station()->exportTo(dir.filePath("holes.csv")).ok());
        QFile in(dir.filePath("holes.csv"));
        QVERIFY(in.open(QIODevice::ReadOnly));
        const QString head = QString::fromUtf8(in.readLine());
        QVERIFY2(head.contains("from right mm,from back mm"), qPrintable(head));
    }

    void aBoardDrilledTogetherNeedsABoard() {
        w->go("chassis");
        choose("p-c2");
        QVERIFY(!station()->exportTo(dir.filePath("x-together.svg")).ok());
        choose("p-strip1");
        QVERIFY(station()->exportTo(dir.filePath("x-together.svg")).ok());
        QVERIFY(station()->exportTo(dir.filePath("x-picture.svg")).ok());
        QFile in(dir.filePath("x-picture.svg"));
        QVERIFY(in.open(QIODevice::ReadOnly));
        QVERIFY(in.readAll().contains(">PT1<"));
    }

    void measureYoursOpensItsValues() {
        w->go("chassis");
        Q_EMIT plate()->measureYours("p-c2");
        auto* filter = child<QLineEdit>("valuesFilter");
        QVERIFY(filter && filter->isVisible());
        QCOMPARE(filter->text(), QString("p-c2"));
    }

    /// What a printer gets: a hole's outline as the PDF holds it, against its place on the face.
    void holesOfThePdfStandWhereTheyShould() {
        if (QStandardPaths::findExecutable("pdftocairo").isEmpty()) QSKIP("no pdftocairo to read the PDF with");
        w->go("chassis");
        plate()->look({Face::Back, false});
        QVERIFY(station()->exportTo(dir.filePath("back.pdf")).ok());
        QProcess reader;
        reader.start("pdftocairo", {"-svg", "-f", "1", "-l", "1", dir.filePath("back.pdf"), dir.filePath("back.svg")});
        QVERIFY(reader.waitForFinished(ember::tests::longest()) && reader.exitCode() == 0);
        QFile in(dir.filePath("back.svg"));
        QVERIFY(in.open(QIODevice::ReadOnly));
        const auto centres = outlineCentres(QString::fromUtf8(in.readAll()));
        QVERIFY(centres.size() > 8);
        // The first sheet starts at the face's left lower corner, 12 mm from the sheet's left.
        int found = 0;
        const auto holes = ember::chassis::holesOf(doc().build().chassis, Face::Back);
        QPointF offset;
        for (const auto& h : holes) {
            if (h.shape != HoleShape::Round || h.x > 0.2) continue;
            const QPointF wanted(12 + h.x * 1e3, -h.y * 1e3);
            double least = 1e9;
            for (const QPointF& c : centres) {
                const QPointF off = c - wanted;
                if (std::abs(off.x()) < 0.01 && (found == 0 || std::abs(off.y() - offset.y()) < 0.01)) {
                    least = std::min(least, std::abs(off.x()));
                    offset = off;
                }
            }
            QVERIFY2(least < 0.01, qPrintable(QString("%1 at %2").arg(QString::fromStdString(h.part)).arg(h.x)));
            ++found;
        }
        QVERIFY(found >= 3);
    }
};

EMBER_TESTS(TestChassisStation)
#include "test_chassis_station.moc"
