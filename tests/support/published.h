#pragma once
// Names of the published data's rows: "ECL86 pentode", "6DN7 section 2", "ECC83/12AX7".
#include <QFile>
#include <QString>
#include <nlohmann/json.hpp>

#include <vector>

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

/// The two files of published data; empty ones where they cannot be read.
inline std::vector<nlohmann::json> publishedFiles() {
    std::vector<nlohmann::json> out;
    for (const char* name : {"valve_points.json", "valve_points_more.json"}) {
        QFile f(QString(TEST_DATA "/") + name);
        out.push_back(f.open(QIODevice::ReadOnly) ? nlohmann::json::parse(f.readAll().toStdString())
                                                  : nlohmann::json());
    }
    return out;
}
