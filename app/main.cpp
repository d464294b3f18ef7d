// young-heron: builds the session and the models over it, registers the places, opens one window or two.
#include "fault/told.hpp"
#include "kit/theme.hpp"
#include "places.hpp"
#include "version/version.hpp"
#include "views/screen/screen_view.hpp"
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
#include <QSysInfo>
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
    const QCommandLineOption share{
        QStringLiteral("share"), QStringLiteral("The broker over which marks are shared with other screens."),
        QStringLiteral("host:port")};
    const QCommandLineOption screen{QStringLiteral("screen"),
                                    QStringLiteral("This screen's name to the others."),
                                    QStringLiteral("name")};
    const QCommandLineOption service{
        QStringLiteral("service"),
        QStringLiteral("Whose marks they are: all boats of a service share one name."),
        QStringLiteral("name"), QStringLiteral("boat")};
    const QCommandLineOption role{QStringLiteral("role"),
                                  QStringLiteral("What this screen may see: crew, client, anyone."),
                                  QStringLiteral("role"), QStringLiteral("crew")};
    const QCommandLineOption share_user{QStringLiteral("share-user"),
                                        QStringLiteral("Its name at the broker."), QStringLiteral("name")};
    const QCommandLineOption share_password{QStringLiteral("share-password-file"),
                                            QStringLiteral("A file whose first line is its password there."),
                                            QStringLiteral("file")};
    const QCommandLineOption share_ca{
        QStringLiteral("share-ca"),
        QStringLiteral("The authority's certificate; without it only this machine's own broker."),
        QStringLiteral("file")};
    const QCommandLineOption tour{
        QStringLiteral("tour"),
        QStringLiteral("Go round by itself, write pictures of the views into a folder, and end."),
        QStringLiteral("folder")};
    QCommandLineOption help = parser.addHelpOption(), version = parser.addVersionOption();

    Options() {
        parser.setApplicationDescription(
            QStringLiteral("The second pair of eyes for guides on inland water."));
        parser.addOptions({sounder, nmea, trips, water, marks, second, share, screen, service, role,
                           share_user, share_password, share_ca, tour});
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

// As asked for, else as it was last time.
void beginToShare(const Options &options, MarkShare &share) {
    const auto &parser = options.parser;
    if (!parser.isSet(options.share)) {
        share.beginAsBefore();
        return;
    }
    MarkShare::Settings s;
    const auto where = parser.value(options.share);
    s.broker.host = where.section(QLatin1Char(':'), 0, -2).toStdString();
    s.broker.port = where.section(QLatin1Char(':'), -1).toInt();
    s.broker.user = parser.value(options.share_user).toStdString();
    s.broker.ca_file = parser.value(options.share_ca).toStdString();
    QFile password(parser.value(options.share_password));
    if (parser.isSet(options.share_password) && password.open(QFile::ReadOnly))
        s.broker.password = QString::fromUtf8(password.readLine(1000)).trimmed().toStdString();
    s.screen = parser.isSet(options.screen) ? parser.value(options.screen) : QSysInfo::machineHostName();
    s.service = parser.value(options.service);
    const auto role = parser.value(options.role);
    s.role = role == QLatin1String("client")   ? heron::SharedMarks::Role::client
             : role == QLatin1String("anyone") ? heron::SharedMarks::Role::anyone
                                               : heron::SharedMarks::Role::crew;
    share.begin(s);
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
    beginToShare(options, program.share);
    session.sayCaution();
    session.sources.listenTo(*sources);
    if (!options.parser.positionalArguments().isEmpty()) {
        const auto file = options.parser.positionalArguments().first();
        if (ScreenView::takes(file)) {
            window.go(place::screen);
            window.view<ScreenView>().open(file);
        } else {
            session.sources.open(file);
        }
    }
    if (options.parser.isSet(options.tour))
        startTour(window, options.parser.value(options.tour));
    const int code = QApplication::exec();
    application.setOnFault({});
    return code;
}
