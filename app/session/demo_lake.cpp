#include "session/demo_lake.hpp"

#include <QCoreApplication>
#include <QDir>
#include <QFile>

namespace heron::app {

DemoLake::DemoLake(Notices &notices, TripKeeper &trip, Sources &sources, QObject *parent)
    : QObject(parent), notices_(notices), trip_(trip), sources_(sources) {
    connect(&process_, &QProcess::readyReadStandardOutput, this, &DemoLake::heard);
    connect(&process_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart)
            fail(tr("%1 could not be started").arg(process_.program()));
    });
    connect(&process_, &QProcess::finished, this, [this] {
        if (!listening_)
            fail(tr("it ended at once: %1")
                     .arg(QString::fromLocal8Bit(process_.readAllStandardError()).trimmed()));
    });
}

DemoLake::~DemoLake() {
    disconnect(&process_, nullptr, this, nullptr);
    process_.kill();
    process_.waitForFinished(2000);
}

void DemoLake::fail(const QString &why) {
    notices_.raise(QStringLiteral("demo"), {tr("the demo lake cannot be sailed: %1").arg(why).toStdString(),
                                            "", tr("open a recording, or connect a sounder").toStdString()});
}

void DemoLake::sail() {
    if (sailing())
        return;
    notices_.pass(QStringLiteral("demo"));
    said_.clear();
    listening_ = false;
    // The lake ships inside this program; the stand-in reads it from a file.
    folder_ = std::make_unique<QTemporaryDir>();
    const auto lake = folder_->filePath(QStringLiteral("ellemoor.json"));
    if (!QFile::copy(QStringLiteral(":/lakes/ellemoor.json"), lake)) {
        fail(tr("%1 could not be written").arg(lake));
        return;
    }
    const auto beside =
        QDir(QCoreApplication::applicationDirPath()).filePath(QStringLiteral("heron-sounder"));
    process_.start(program_.isEmpty() ? beside : program_,
                   {lake, QStringLiteral("--port"), QStringLiteral("0"), QStringLiteral("--nmea-port"),
                    QStringLiteral("0"), QStringLiteral("--head-port"), QStringLiteral("0"),
                    QStringLiteral("--device"), QStringLiteral("both")});
}

// "pings on 40123, NMEA 0183 on 40124, head on 40125"
void DemoLake::heard() {
    said_ += process_.readAllStandardOutput();
    const auto line = QString::fromLatin1(said_).section(QLatin1Char('\n'), 0, 0);
    const auto words = line.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    if (listening_ || !said_.contains('\n') || words.size() < 10)
        return;
    listening_ = true;
    const auto at = [&](int i) {
        return QStringLiteral("127.0.0.1:") + words[i].trimmed().remove(QLatin1Char(','));
    };
    trip_.setWater(tr("Ellemoor Water"));
    sources_.listenTo({{SourceConfig::Kind::sounder, SourceConfig::Way::tcp, at(2)},
                       {SourceConfig::Kind::sounder, SourceConfig::Way::tcp, at(9)},
                       {SourceConfig::Kind::nmea, SourceConfig::Way::tcp, at(6)}});
}

} // namespace heron::app
