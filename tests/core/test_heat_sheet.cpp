// The plate's warmth: what it loses to the room, through walls and the air shut in below.

#include "../support/suite.h"

#include "core/chassis/heat_sheet.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::chassis;

class TestHeatSheet : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The room above; the air below and the box behind it in series. A plate without walls has the room on both sides.
    void aUniformlyHeatedSheetRisesByWhatStandsBetweenItAndTheRoom() {
        for (const ChassisForm form : {ChassisForm::Frame, ChassisForm::Plate}) {
            Chassis c;
            c.form = form;
            const HeatLoss h = heatLossOf(c);
            const double area = c.width * c.depth, below = area * h.below;
            const double whole = area * h.above + (h.box > 0 ? 1 / (1 / below + 1 / h.box) : below);
            const double watts = 40, rise = watts / whole;
            const auto field = HeatSheet(c).solve({{{0, c.width, 0, c.depth}, watts}});
            for (const double t : field) QVERIFY(std::abs(t - c.ambient - rise) < 1e-6);
            QVERIFY(std::abs(h.perArea(c) * area / whole - 1) < 1e-9);
        }
    }

    /// Of tables: a bare horizontal plate of some 0.4 m by 0.2 m loses 5 to 6.5 W/m2K above and half of that below at
    /// 20 K; paint adds some 5 by radiation. A wall of 2 mm of aluminium is so good a fin that it is nearly as warm as
    /// the plate: what it takes is its area times its film, less a few percent.
    void aPlateLosesWhatTablesSay() {
        Chassis bare, painted;
        painted.plateFinish = PlateFinish::Black;
        const HeatLoss b = heatLossOf(bare), p = heatLossOf(painted);
        QVERIFY2(b.above > 5 && b.above < 6.7 && b.below > 2 && b.below < 3.5,
                 qPrintable(QString("%1, %2").arg(b.above).arg(b.below)));
        QVERIFY2(p.above - b.above > 4.5 && p.above - b.above < 6, qPrintable(QString::number(p.above - b.above)));
        QVERIFY2(b.rim / bare.height > 5 && b.rim / bare.height < 7, qPrintable(QString::number(b.rim / bare.height)));
    }

    /// Watts that are lost inside leave by the bottom and by the sheet: a box in a box, solved by hand.
    void whatIsLostInsideWarmsTheSheet() {
        Chassis c;
        c.form = ChassisForm::Frame;
        const HeatLoss h = heatLossOf(c);
        const double area = c.width * c.depth, watts = 20;
        const double through = 1 / (1 / (area * h.below) + 1 / (area * h.above)); // the sheet, from inside to the room
        const double inside = watts / (h.box + through), rise = inside * h.below / (h.below + h.above);
        const HeatSheet sheet(c);
        QVERIFY(std::abs(sheet.insideRise({}, watts) / inside - 1) < 1e-9);
        for (const double t : sheet.solve({}, watts)) QVERIFY(std::abs(t - c.ambient - rise) < 1e-6);
    }

    void theSheetLosesWhatItIsGiven() {
        Chassis c;
        const HeatSheet sheet(c);
        const std::vector<HeatSource> sources{{{0.1, 0.14, 0.05, 0.09}, 10}, {{0.3, 0.35, 0.1, 0.2}, 5}};
        const auto field = sheet.solve(sources, 3);
        const HeatLoss h = heatLossOf(c);
        const int nx = sheet.columns(), ny = sheet.rows();
        double lost = h.box * sheet.insideRise(sources, 3);
        for (int j = 0; j < ny; ++j)
            for (int i = 0; i < nx; ++i) {
                const double rise = field[static_cast<std::size_t>(j * nx + i)] - c.ambient;
                lost += rise * h.above * c.width * c.depth / (nx * ny);
                if (i == 0 || i == nx - 1) lost += rise * h.rim * c.depth / ny;
                if (j == 0 || j == ny - 1) lost += rise * h.rim * c.width / nx;
            }
        QVERIFY2(std::abs(lost - 18) < 1e-6, qPrintable(QString::number(lost)));
        QVERIFY2(sheet.at(field, 0.12, 0.07) > sheet.at(field, 0.02, 0.2) + 2, "hottest where the heat goes in");
        QVERIFY(sheet.fits(c));
        c.thickness = 0.003;
        QVERIFY(!sheet.fits(c));
    }

    void copperSpreadsBetterThanSteel() {
        Chassis c;
        const auto peak = [&](Metal m) {
            c.metal = m;
            const auto field = HeatSheet(c).solve({{{0.1, 0.13, 0.1, 0.13}, 10}});
            return *std::max_element(field.begin(), field.end());
        };
        QVERIFY(peak(Metal::Copper) < peak(Metal::Aluminium) && peak(Metal::Aluminium) < peak(Metal::Steel));
    }
};

EMBER_TESTS(TestHeatSheet)
#include "test_heat_sheet.moc"
