// What the chassis is written to and read from.
#include "chassis_station.h"

#include "plate_view.h"
#include "template_pdf.h"

#include "app/widgets/words.h"
#include "core/build/storage.h"
#include "core/chassis/dxf.h"
#include "core/chassis/picture_svg.h"
#include "core/chassis/positions.h"
#include "core/chassis/template_svg.h"

#include <QFile>

namespace ember::app {

using namespace chassis;

Expected<Done> ChassisStation::exportTo(const QString& file) {
    const Chassis& c = document.build().chassis;
    const Face face = plate->side().face;
    const bool below = plate->side().fromBelow;
    if (file.endsWith(".pdf")) {
        const auto sheets = writeTemplatePdf(c, face, file);
        return sheets ? Expected<Done>(Done{}) : sheets.problem();
    }
    if (file.endsWith("-picture.svg")) return saveText(pictureSvg(c), file.toStdString());
    if (file.endsWith("-together.svg")) {
        const auto& which = plate->selection();
        if (which.size() != 1 || c.parts[which[0]].kind != "board")
            return Problem{file.toStdString(),
                           "choose the board that is drilled together with this face, then ask again"};
        return saveText(overlaySvg(c, c.parts[which[0]].face, overlayOf(c, which[0])), file.toStdString());
    }
    if (file.endsWith(".svg")) return saveText(templateSvg(c, face, {below, true}), file.toStdString());
    if (file.endsWith(".dxf")) return writeTemplateDxf(c, face, file.toStdString());
    if (file.endsWith("-positions.csv")) return saveText(positionsTable(c), file.toStdString());
    if (file.endsWith(".csv")) return saveText(holeTable(c, face, datum), file.toStdString());
    return Problem{file.toStdString(), "the ending says what is written: .pdf, .svg, .dxf or .csv"};
}

Expected<Done> ChassisStation::importFrom(const QString& file) {
    if (file.endsWith(".dxf", Qt::CaseInsensitive)) {
        const auto drawing = readDxf(file.toStdString());
        if (!drawing) return drawing.problem();
        Chassis c = document.build().chassis;
        c.given = drawing->holes;
        if (drawing->width > 0) {
            c.width = drawing->width;
            c.depth = drawing->height;
        }
        return document.edit(
            insertAt("an old chassis with " + std::to_string(c.given.size()) + " holes", "/chassis", c));
    }
    QFile in(file);
    if (!in.open(QIODevice::ReadOnly))
        return Problem{file.toStdString(), "it could not be read: " + in.errorString().toStdString()};
    if (in.size() > 1 << 20) return Problem{file.toStdString(), "this table is larger than 1 MB; a layout's never is"};
    const auto edit = positionsFromTable(document.build(), in.readAll().toStdString());
    if (!edit) return edit.problem();
    return document.edit(*edit);
}

} // namespace ember::app
