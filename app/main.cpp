// young-heron: the window.
#include "feed/survey.hpp"
#include "shell/main_window.hpp"
#include "shell/tour.hpp"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QStandardPaths>
#include <QTextStream>

namespace {

// "host:port"; empty for text that is none.
std::optional<heron::app::Endpoint> endpoint(const QString &text) {
    const auto colon = text.lastIndexOf(QLatin1Char(':'));
    bool good = false;
    const auto port = text.mid(colon + 1).toUShort(&good);
    if (colon <= 0 || !good || port == 0)
        return std::nullopt;
    return heron::app::Endpoint{text.left(colon), port};
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
                                     QStringLiteral("host:port"), QStringLiteral("127.0.0.1:10121"));
    const QCommandLineOption nmea(QStringLiteral("nmea"), QStringLiteral("Where NMEA 0183 comes from."),
                                  QStringLiteral("host:port"), QStringLiteral("127.0.0.1:10110"));
    const QCommandLineOption marks(QStringLiteral("marks"), QStringLiteral("The file of marks."),
                                   QStringLiteral("file"));
    const QCommandLineOption tour(
        QStringLiteral("tour"),
        QStringLiteral("Go round by itself, write pictures of the views into a folder, and end."),
        QStringLiteral("folder"));
    options.addOptions({sounder, nmea, marks, tour});
    options.addPositionalArgument(QStringLiteral("recording"), QStringLiteral("A recording (.nc) to open."),
                                  QStringLiteral("[recording]"));
    options.process(application);

    const auto pings = endpoint(options.value(sounder)), sentences = endpoint(options.value(nmea));
    if (!pings || !sentences) {
        QTextStream(stderr) << "young-heron: --sounder and --nmea want host:port, such as 127.0.0.1:10121\n";
        return 2;
    }
    heron::app::Survey survey;
    heron::app::MainWindow window(survey);
    auto file = options.value(marks);
    if (file.isEmpty()) {
        const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
        folder.mkpath(QStringLiteral("."));
        file = folder.filePath(QStringLiteral("marks.gpkg"));
    }
    window.show();
    survey.openMarks(file);
    survey.listenTo(*pings, *sentences);
    if (!options.positionalArguments().isEmpty())
        survey.openRecording(options.positionalArguments().first());
    if (options.isSet(tour))
        heron::app::startTour(window, survey, options.value(tour));
    return QApplication::exec();
}
