// young-heron: builds the session and the models over it, registers the places, opens one window or two.
#include "fault/told.hpp"
#include "kit/theme.hpp"
#include "places.hpp"
#include "version/version.hpp"
#include "window/guarded_application.hpp"
#include "window/main_window.hpp"
#include "window/program.hpp"
#include "window/tour.hpp"

#include <QCommandLineParser>
#include <QDir>
#include <QFileInfo>
#include <QScreen>
#include <QSettings>
#include <QStandardPaths>
#include <QTextStream>

namespace {

using namespace heron::app;

std::string translated(const char *english) {
    return QCoreApplication::translate("core", english).toStdString();
}

/// What the command line asks for.
struct Options {
    QCommandLineParser parser;
    const QCommandLineOption sounder{
        QStringLiteral("sounder"), QStringLiteral("Where a sounder sends pings; may be given several times."),
        QStringLiteral("host:port")};
    const QCommandLineOption nmea{QStringLiteral("nmea"),
                                  QStringLiteral("Where NMEA 0183 comes from; may be given several times."),
                                  QStringLiteral("host:port")};
    const QCommandLineOption trips{QStringLiteral("trips"),
                                   QStringLiteral("The folder in which trips are kept."),
                                   QStringLiteral("folder")};
    const QCommandLineOption water{QStringLiteral("water"), QStringLiteral("The name of the water."),
                                   QStringLiteral("name")};
    const QCommandLineOption marks{QStringLiteral("marks"), QStringLiteral("The file of marks."),
                                   QStringLiteral("file")};
    const QCommandLineOption second{QStringLiteral("second"),
                                    QStringLiteral("Open a second window on the same session, on the second "
                                                   "display where there is one.")};
    const QCommandLineOption tour{
        QStringLiteral("tour"),
        QStringLiteral("Go round by itself, write pictures of the views into a folder, and end."),
        QStringLiteral("folder")};
    QCommandLineOption help = parser.addHelpOption(), version = parser.addVersionOption();

    Options() {
        parser.setApplicationDescription(
            QStringLiteral("The second pair of eyes for guides on inland water."));
        parser.addOptions({sounder, nmea, trips, water, marks, second, tour});
        parser.addPositionalArgument(QStringLiteral("recording"),
                                     QStringLiteral("A recording (.nc) or a trip (.trip.gpkg) to open."),
                                     QStringLiteral("[file]"));
    }
};

void nameTheProgram() {
    QCoreApplication::setApplicationName(QStringLiteral("young-heron"));
    QCoreApplication::setOrganizationName(QStringLiteral("young-heron"));
    QCoreApplication::setApplicationVersion(QString::fromLatin1(heron::version));
}

// What needs no window needs no display.
bool answersWithoutAWindow(int argc, char **argv) {
    QStringList arguments;
    for (int i = 0; i < argc; ++i)
        arguments << QString::fromLocal8Bit(argv[i]);
    Options options;
    if (!options.parser.parse(arguments)) {
        QTextStream(stderr) << "young-heron: " << options.parser.errorText() << '\n';
        std::exit(2);
    }
    const QCoreApplication without_display(argc, argv); // the help names the program by it
    if (options.parser.isSet(options.help))
        QTextStream(stdout) << options.parser.helpText();
    else if (options.parser.isSet(options.version))
        QTextStream(stdout) << QCoreApplication::applicationName() << ' '
                            << QCoreApplication::applicationVersion() << '\n';
    else
        return false;
    return true;
}

/// What is connected: from the command line, else as it was last time. Nothing for what cannot be read.
std::optional<std::vector<SourceConfig>> sourcesFrom(const Options &options) {
    QStringList lines;
    for (const auto &s : options.parser.values(options.sounder))
        lines << QStringLiteral("sounder tcp ") + s;
    for (const auto &n : options.parser.values(options.nmea))
        lines << QStringLiteral("nmea tcp ") + n;
    const bool told = !lines.isEmpty();
    if (!told)
        lines = QSettings().value(Session::sources_key).toStringList();
    std::vector<SourceConfig> sources;
    for (const auto &line : lines) {
        if (const auto c = SourceConfig::from(line))
            sources.push_back(*c);
        else if (told)
            return std::nullopt;
    }
    return sources;
}

QString marksFile(const Options &options) {
    if (options.parser.isSet(options.marks))
        return options.parser.value(options.marks);
    const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
    folder.mkpath(QStringLiteral("."));
    return folder.filePath(QStringLiteral("marks.gpkg"));
}

// Beside the first, or on the second display.
std::unique_ptr<MainWindow> secondWindow(Program &program, const MainWindow &first) {
    auto second = std::make_unique<MainWindow>(program, allPlaces());
    second->setWindowTitle(MainWindow::tr("Young Heron, second window"));
    const auto screens = QGuiApplication::screens();
    if (screens.size() > 1)
        second->setGeometry(screens[1]->availableGeometry());
    else
        second->move(first.pos() + QPoint(40, 40));
    second->show();
    return second;
}

} // namespace

int main(int argc, char **argv) {
    nameTheProgram();
    if (answersWithoutAWindow(argc, argv))
        return 0;
    GuardedApplication application(argc, argv);
    Options options;
    options.parser.process(application);
    const auto sources = sourcesFrom(options);
    if (!sources) {
        QTextStream(stderr) << "young-heron: --sounder and --nmea want host:port, such as 127.0.0.1:10121\n";
        return 2;
    }
    heron::translator() = translated;
    Theme::instance().keepLight();
    Program program;
    auto &session = program.session;
    application.setOnFault(
        [&session](const heron::Fault &fault) { session.notices.raise(QStringLiteral("program"), fault); });
    MainWindow window(program, allPlaces());
    session.trip.setFolder(options.parser.isSet(options.trips)
                               ? options.parser.value(options.trips)
                               : QDir(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation))
                                     .filePath(QStringLiteral("Young Heron trips")));
    if (options.parser.isSet(options.water))
        session.trip.setWater(options.parser.value(options.water));
    window.show();
    std::unique_ptr<MainWindow> second;
    if (options.parser.isSet(options.second))
        second = secondWindow(program, window);
    const auto marks = marksFile(options);
    program.marks.open(marks);
    program.reader.openCorrections(QFileInfo(marks).dir().filePath(QStringLiteral("corrections.json")));
    session.sayCaution();
    session.sources.listenTo(*sources);
    if (!options.parser.positionalArguments().isEmpty())
        session.sources.open(options.parser.positionalArguments().first());
    if (options.parser.isSet(options.tour))
        startTour(window, options.parser.value(options.tour));
    const int code = QApplication::exec();
    application.setOnFault({});
    return code;
}
