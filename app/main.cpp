// young-heron: the window.
#include "fault/told.hpp"
#include "reading/contact_reader.hpp"
#include "tuning/tuner.hpp"
#include "window/main_window.hpp"
#include "window/tour.hpp"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QSettings>
#include <QStandardPaths>
#include <QTextStream>

namespace {

std::string translated(const char *english) {
    return QCoreApplication::translate("core", english).toStdString();
}

} // namespace

int main(int argc, char **argv) {
    QApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("young-heron"));
    QApplication::setOrganizationName(QStringLiteral("young-heron"));
    QApplication::setApplicationVersion(QStringLiteral("0.1.0"));

    QCommandLineParser options;
    options.setApplicationDescription(QStringLiteral("The second pair of eyes for guides on inland water."));
    options.addHelpOption();
    options.addVersionOption();
    const QCommandLineOption sounder(QStringLiteral("sounder"),
                                     QStringLiteral("Where the sounder sends pings."),
                                     QStringLiteral("host:port"));
    const QCommandLineOption nmea(QStringLiteral("nmea"),
                                  QStringLiteral("Where NMEA 0183 comes from; may be given several times."),
                                  QStringLiteral("host:port"));
    const QCommandLineOption trips(QStringLiteral("trips"),
                                   QStringLiteral("The folder in which trips are kept."),
                                   QStringLiteral("folder"));
    const QCommandLineOption water(QStringLiteral("water"), QStringLiteral("The name of the water."),
                                   QStringLiteral("name"));
    const QCommandLineOption marks(QStringLiteral("marks"), QStringLiteral("The file of marks."),
                                   QStringLiteral("file"));
    const QCommandLineOption tour(
        QStringLiteral("tour"),
        QStringLiteral("Go round by itself, write pictures of the views into a folder, and end."),
        QStringLiteral("folder"));
    options.addOptions({sounder, nmea, trips, water, marks, tour});
    options.addPositionalArgument(QStringLiteral("recording"),
                                  QStringLiteral("A recording (.nc) or a trip (.trip.gpkg) to open."),
                                  QStringLiteral("[file]"));
    options.process(application);

    // What is connected: from the command line, else as it was last time.
    QStringList lines;
    if (options.isSet(sounder))
        lines << QStringLiteral("sounder tcp ") + options.value(sounder);
    for (const auto &n : options.values(nmea))
        lines << QStringLiteral("nmea tcp ") + n;
    const bool told = !lines.isEmpty();
    if (!told)
        lines = QSettings().value(QStringLiteral("sources")).toStringList();
    std::vector<heron::app::SourceConfig> sources;
    for (const auto &line : lines) {
        if (const auto c = heron::app::SourceConfig::from(line)) {
            sources.push_back(*c);
        } else if (told) {
            QTextStream(stderr)
                << "young-heron: --sounder and --nmea want host:port, such as 127.0.0.1:10121\n";
            return 2;
        }
    }
    heron::translator() = translated;
    heron::app::Survey survey;
    heron::app::Tuner desk(survey);
    heron::app::MainWindow window(survey, desk);
    survey.setTripFolder(options.isSet(trips)
                             ? options.value(trips)
                             : QDir(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation))
                                   .filePath(QStringLiteral("Young Heron trips")));
    if (options.isSet(water))
        survey.setWater(options.value(water));
    QObject::connect(&window, &heron::app::MainWindow::sourcesChosen, &survey,
                     [&survey](const std::vector<heron::app::SourceConfig> &chosen) {
                         QStringList kept;
                         for (const auto &c : chosen)
                             kept << c.text();
                         QSettings().setValue(QStringLiteral("sources"), kept);
                         survey.listenTo(chosen);
                     });
    auto file = options.value(marks);
    if (file.isEmpty()) {
        const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
        folder.mkpath(QStringLiteral("."));
        file = folder.filePath(QStringLiteral("marks.gpkg"));
    }
    window.show();
    survey.openMarks(file);
    window.readingDesk().openCorrections(QFileInfo(file).dir().filePath(QStringLiteral("corrections.json")));
    survey.listenTo(sources);
    if (!options.positionalArguments().isEmpty()) {
        const auto open = options.positionalArguments().first();
        if (open.endsWith(QLatin1String(heron::TripFile::suffix)))
            survey.openTrip(open);
        else
            survey.openRecording(open);
    }
    if (options.isSet(tour))
        heron::app::startTour(window, survey, options.value(tour));
    return QApplication::exec();
}
