// Iron in the mountings that it is sold in.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/chassis/mountings.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::chassis;

class TestMountings : public QObject {
    Q_OBJECT

  private Q_SLOTS:
    /// Iron in another mounting stands where it stood and weighs what it weighed; a pot is heavier and strays less.
    void ironIsMountedInAnotherWay() {
        Build b = demoBuild();
        const auto at = [&](const Build& x, const char* of) -> const PlacedPart& {
            return *std::find_if(x.chassis.parts.begin(), x.chassis.parts.end(),
                                 [&](const PlacedPart& p) { return p.of == of; });
        };
        const PlacedPart pt = at(b, "pt1");
        const auto kinds = mountingsOf(pt);
        QCOMPARE(kinds.size(), 5U);
        QCOMPARE(mountingsOf(at(b, "l1")).size(), 3U);
        QVERIFY(mountingsOf(at(b, "v2")).empty());
        const std::size_t k = static_cast<std::size_t>(&at(b, "pt1") - b.chassis.parts.data());
        for (const BodyKind* kind : kinds) {
            const auto done = apply(b, inMounting(b.chassis, {k}, *kind));
            QVERIFY(done && done->chassis.parts.size() == b.chassis.parts.size());
            const PlacedPart& p = done->chassis.parts[k];
            QVERIFY(p.id == pt.id && p.of == pt.of && p.x == pt.x && p.y == pt.y && p.body == kind->id);
            const bool potted = kind->id.ends_with("potted");
            QVERIFY2(std::abs(p.mass / pt.mass - (potted ? 1.25 : 1)) < 2e-3, kind->id.c_str());
            QVERIFY(p.liveAbove == kind->id.ends_with("open"));
            QVERIFY((p.stray < pt.stray) == (potted || kind->id.ends_with("toroid")));
            const bool cutOut = std::any_of(p.holes.begin(), p.holes.end(),
                                            [](const Hole& h) { return h.shape == HoleShape::Rectangle; });
            QCOMPARE(cutOut, kind->id.ends_with("laydown"));
            // And back: as it was.
            const auto upright =
                std::find_if(kinds.begin(), kinds.end(), [&](const BodyKind* x) { return x->id == pt.body; });
            const auto back = apply(*done, inMounting(done->chassis, {k}, **upright));
            QVERIFY(back && std::abs(back->chassis.parts[k].mass / pt.mass - 1) < 2e-3);
        }
        b.chassis.parts[k].locked = true;
        const auto same = apply(b, inMounting(b.chassis, {k}, *kinds[1]));
        QVERIFY(!same || same->chassis.parts[k].body == pt.body);
    }
};

EMBER_TESTS(TestMountings)
#include "test_mountings.moc"
