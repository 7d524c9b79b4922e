// What a series is foretold to show, of every power amplifier that one begins from.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/series/prediction.h"
#include "core/build/starts.h"
#include "core/plan/solve.h"

#include <QTest>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::bench;

class TestPrediction : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Whoever asks a power amplifier how much it gives is told: no tone on the way is unsolved.
    void everyPowerAmplifierIsForetoldPastClipping_data() {
        QTest::addColumn<QString>("id");
        QTest::newRow("the demo") << "";
        for (const Start& s : starts())
            if (s.build.channels.size() > 0 &&
                std::any_of(s.build.channels[0].stages.begin(), s.build.channels[0].stages.end(),
                            [](const Stage& x) { return x.kind == "single-ended" || x.kind == "push-pull"; }))
                QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyPowerAmplifierIsForetoldPastClipping() {
        QFETCH(QString, id);
        const Build b = id.isEmpty() ? demoBuild() : startOf(id.toStdString())->build;
        plan::Figures figures = plan::solveFigures(b, catalogue);
        QVERIFY(figures.nominal);
        figures.power = plan::channelPower(b, catalogue, *figures.nominal);
        const SeriesContext context = seriesContextOf(b, figures);
        SeriesRequest request{SeriesKind::Power};
        request.frequencies = {1000};
        const auto foretold = predict(request, b, catalogue, b.mains.volts, context, 0, {});
        QVERIFY2(foretold.ok(), foretold ? "" : foretold.problem().text().c_str());
        for (const std::string& said : foretold->nominal.trust)
            QVERIFY2(said.find("not solved") == std::string::npos, said.c_str());
        const SeriesLine& three = foretold->nominal.lines.front();
        QCOMPARE(QString::fromStdString(three.name), QString("3 % THD"));
        for (std::size_t k = 0; k < three.x.size(); ++k)
            QVERIFY2(std::isfinite(three.y[k]), fmt::format("at {} Hz", three.x[k]).c_str());
    }
};

EMBER_TESTS(TestPrediction)
#include "test_prediction.moc"
