#pragma once
// The Supply station of a real window, and what its tests reach for.

#include "window_test.h"

#include "app/stations/supply/supply_station.h"
#include "app/widgets/figure_list.h"
#include "app/widgets/quantity_field.h"

#include <QContextMenuEvent>
#include <QMenu>

class SupplyTest : public WindowTest {
  protected:
    using SupplyStation = ember::app::SupplyStation;
    using QuantityField = ember::app::QuantityField;
    SupplyStation* station() { return w->station<SupplyStation>(); }
    ember::app::FallView* fall() { return station()->fallView(); }
    QuantityField* field(const QString& pointer) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete); // of the chain before the last change
        return w->findChild<QuantityField*>(pointer);
    }
    const ember::Supply& supply() { return doc().build().supply; }
    QString figures() { return child<ember::app::FigureList>("supplyFigures")->text(); }
    /// The next menu that opens is answered with the entry that holds `words`.
    void choose(const QString& words) {
        QTimer::singleShot(30, qApp, [this, words] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return choose(words);
            for (QAction* a : menu->actions())
                if (a->text().contains(words)) {
                    menu->close();
                    return a->trigger();
                }
            menu->close();
            QFAIL("no such entry");
        });
    }
    /// The menu at a field of the fall, answered with `entry` of its submenu that holds `under`.
    void chooseAt(const QString& pointer, const QString& under, const QString& entry) {
        QTimer::singleShot(30, qApp, [under, entry] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            // The entry of just these words, else one that holds them.
            for (const bool exactly : {true, false})
                for (QAction* a : menu->actions())
                    if (a->menu() && a->text().endsWith(under))
                        for (QAction* choice : a->menu()->actions())
                            if (exactly ? choice->text() == entry : choice->text().contains(entry)) {
                                choice->trigger();
                                return menu->close(), void();
                            }
            menu->close();
        });
        const QPoint place = field(pointer)->geometry().center();
        QContextMenuEvent e(QContextMenuEvent::Keyboard, place, fall()->mapToGlobal(place));
        QApplication::sendEvent(fall(), &e);
    }
};
