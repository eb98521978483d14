#pragma once

#include <QList>
#include <QString>
#include <utility>

namespace nuvat::settings {

/// Batches that were open lately, newest first, at most 6: path and title. Files that are gone are left out.
QList<std::pair<QString, QString>> recentBatches();
/// Where the instrument was that was connected last, "localhost:5025"; empty: none was.
QString instrumentPlace();
void rememberInstrument(const QString& place);
void rememberBatch(const QString& path, const QString& title);

} // namespace nuvat::settings
