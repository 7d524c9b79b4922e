#pragma once
// Names of the published data's rows: "ECL86 pentode", "6DN7 section 2", "ECC83/12AX7".
#include <QString>

/// Where the rest of a type's name stands for one of its sections.
inline int sectionOf(const QString& name) {
    if (name.endsWith(" pentode") || name.endsWith(" section 2")) return 2;
    return 1;
}
inline QString bareOf(const QString& name) {
    for (const char* tail : {" triode", " pentode", " section 1", " section 2"})
        if (name.endsWith(tail)) return name.chopped(static_cast<int>(qstrlen(tail)));
    return name;
}
