// The bias supply's picture, driven as a builder would, and pictures that are drawn in turns.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/supply/supply_station.h"
#include "app/widgets/quantity_field.h"
#include "app/widgets/turned_picture.h"
#include "core/plan/bias_range.h"

#include <QContextMenuEvent>
#include <QImage>
#include <QMenu>
#include <QPainter>

using namespace ember;
using namespace ember::app;

namespace {

/// Three stripes, a piece each, all of one colour; counts what was painted.
class Striped : public QWidget {
  public:
    Striped()
        : picture(this, [this] {
              std::vector<TurnedPicture::Piece> all;
              for (int k = 0; k < 3; ++k)
                  all.emplace_back([this, k](QPainter& p) {
                      ++drawn;
                      p.fillRect(QRect(0, k * height() / 3, width(), height() / 3), colour);
                  });
              return all;
          }) {}
    TurnedPicture picture;
    QColor colour = Qt::red;
    int drawn = 0;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        picture.paint(p);
    }
};

} // namespace

class TestBiasFall : public WindowTest {
    Q_OBJECT
    SupplyStation* station() { return w->station<SupplyStation>(); }
    BiasFall* bias() { return station()->biasView(); }
    QuantityField* field(const QString& pointer) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        return bias()->findChild<QuantityField*>(pointer);
    }
    void chooseInMenu(const QString& words) {
        QTimer::singleShot(30, qApp, [this, words] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return chooseInMenu(words);
            for (QAction* a : menu->actions())
                if (a->text().contains(words)) a->trigger();
            menu->close();
        });
        QContextMenuEvent e(QContextMenuEvent::Keyboard, bias()->rect().center(), bias()->mapToGlobal(QPoint(40, 40)));
        QApplication::sendEvent(bias(), &e);
    }

  private Q_SLOTS:
    void aResistorInTheBiasSupplyMovesTheRail() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        QVERIFY(bias()->isVisible() && !station()->curvesView()->isVisible());
        settleSteady();
        const QImage before = bias()->grab().toImage();
        const double was = doc().figures().nominal->biasRail;
        type(field("/bias/series/resistance"), "22k");
        QCOMPARE(doc().build().bias.series.resistance, 22e3);
        waitForFigures();
        const double is = doc().figures().nominal->biasRail;
        QVERIFY2(is > was + 1, qPrintable(QString("%1 to %2").arg(was).arg(is))); // less negative: it drops more
        settleSteady();
        QVERIFY(bias()->grab().toImage() != before);
        doc().undoStack().undo();
        QVERIFY(doc().build().bias.series.resistance != 22e3);
    }

    void theMenuFeedsItFromThePlateWinding() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        QVERIFY(field("/transformer/biasVolts") && !field("/bias/feed"));
        chooseInMenu("through a capacitor");
        WAIT_FOR(doc().build().bias.from == BiasSource::PlateCapacitor);
        QVERIFY(!field("/transformer/biasVolts") && field("/bias/feed") && field("/bias/feedCapacitance"));
        waitForFigures();
        QVERIFY(doc().figures().nominal->biasRail < 0);
        doc().undoStack().undo();
        QVERIFY(field("/transformer/biasVolts") && !field("/bias/feed"));
    }

    void aValueOutOfRangeIsRefusedInASentence() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        QSignalSpy said(bias(), &BiasFall::said);
        type(field("/bias/floor"), "1");
        WAIT_FOR(!said.isEmpty());
        QVERIFY(said.last().at(0).toString().contains("outside"));
        QVERIFY(doc().build().bias.floor > 100);
    }

    void theBiasIsNoCurveToWrite() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        settleSteady();
        const auto done = station()->exportTo(dir.filePath("x.csv"));
        QVERIFY(!done.ok());
        QVERIFY(done.problem().sentence.find("not a curve") != std::string::npos);
        QVERIFY(station()->exportTo(dir.filePath("x.cir")).ok()); // the circuit is, whatever is shown
    }

    void aLegResistorIsTypedWhereItStands() {
        w->go("supply");
        const double was = doc().figures().nominal->rectifierPeak;
        type(w->findChild<QuantityField*>("/supply/rectifier/legResistance"), "47");
        QCOMPARE(doc().build().supply.rectifier.legResistance, 47.0);
        waitForFigures();
        QVERIFY(doc().figures().nominal->rectifierPeak < 0.97 * was);
    }

    void aColdThatIsNotReachedIsSaidAndMended() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        const auto found = [&]() -> const rules::Finding* {
            for (const auto& f : doc().findings())
                if (f.id == "bias-cold") return &f;
            return nullptr;
        };
        QVERIFY(!found());
        type(field("/transformer/biasVolts"), "9");
        settle(); // a mend is offered once it was tried
        QVERIFY(found() && found()->fix);
        // At one end of the mains at least it does not reach.
        const auto reaches = [&](const std::optional<plan::Steady>& s) {
            return plan::biasRange(doc().build().bias, *s).coldest <=
                   plan::coldEnough(doc().build(), Catalogue::shipped(), *s);
        };
        const plan::Figures& f = doc().figures();
        QVERIFY(!reaches(f.low) || !reaches(f.nominal) || !reaches(f.high));
        for (int k = 0; k < 3 && found(); ++k) {
            const Edit fix = *found()->fix;
            QVERIFY(doc().edit(fix).ok());
            settle();
        }
        QVERIFY2(!found(), found() ? found()->text.c_str() : "");
        QVERIFY(reaches(doc().figures().low) && reaches(doc().figures().high));
        QVERIFY(field("/transformer/biasVolts")->text().startsWith("1")); // shown where it stands, a little more
    }

    void anotherThemeKeepsTheFieldsFonts() {
        w->go("supply");
        station()->showCurve(SupplyStation::biasPicture);
        settleSteady();
        const QFont before = field("/bias/reservoir/volts")->font();
        theme::apply(*qApp, theme::Mode::Daylight);
        QVERIFY(doc().edit(setValue("", "/bias/floor", 6.9e3)).ok());
        settleSteady();
        QCOMPARE(field("/bias/reservoir/volts")->font().pixelSize(), before.pixelSize());
        QVERIFY(bias()->grab().toImage().pixelColor(3, 60).lightness() > 128); // drawn anew on bone
        theme::apply(*qApp, theme::Mode::Dusk);
    }

    void aTurnedPictureIsShownWhole() {
        Striped s;
        s.resize(30, 30);
        s.show();
        WAIT_FOR(s.windowHandle()->isExposed());
        QCOMPARE(s.grab().toImage().pixelColor(15, 25), QColor(Qt::red));
        s.colour = Qt::blue;
        s.drawn = 0;
        s.picture.renew();
        QCOMPARE(s.drawn, 0); // nothing in the turn that asked for it
        QCoreApplication::processEvents(QEventLoop::AllEvents);
        if (s.drawn < 3) QCOMPARE(s.grab().toImage().pixelColor(15, 5), QColor(Qt::red)); // the last whole one
        WAIT_FOR_EQUAL(s.drawn, 3);
        WAIT_FOR_EQUAL(s.grab().toImage().pixelColor(15, 5), QColor(Qt::blue));
        // Of another size or theme the old one will not do: drawn at once.
        s.colour = Qt::green;
        s.resize(60, 60);
        QCOMPARE(s.grab().toImage().pixelColor(50, 50), QColor(Qt::green));
        // Changed again halfway, it begins anew.
        s.colour = Qt::yellow;
        s.picture.renew();
        s.picture.renew();
        WAIT_FOR_EQUAL(s.grab().toImage().pixelColor(50, 50), QColor(Qt::yellow));
        s.hide();
        s.drawn = 0;
        s.picture.renew();
        pass(100);
        QCOMPARE(s.drawn, 0); // unseen, it costs nothing
    }
};

EMBER_TESTS(TestBiasFall)
#include "test_bias_fall.moc"
