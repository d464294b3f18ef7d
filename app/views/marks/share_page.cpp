#include "views/marks/share_page.hpp"

#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/theme.hpp"

#include <QPainter>
#include <QVBoxLayout>

namespace heron::app {

SharePage::SharePage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    const auto field = [&](const char *name, const QString &placeholder) {
        auto *f = new QLineEdit(this);
        f->setObjectName(QString::fromLatin1(name));
        f->setPlaceholderText(placeholder);
        f->setMinimumHeight(44);
        column->addWidget(f);
        return f;
    };
    where_ = field("shareWhere", tr("the broker, host:port"));
    screen_ = field("shareScreen", tr("this screen's name: console, bow, …"));
    service_ = field("shareService", tr("whose marks: one name for all your boats"));
    role_ = new QComboBox(this);
    role_->setObjectName(QStringLiteral("shareRole"));
    role_->setMinimumHeight(44);
    role_->addItem(tr("a screen of the crew"), static_cast<int>(SharedMarks::Role::crew));
    role_->addItem(tr("a client's screen: listens only"), static_cast<int>(SharedMarks::Role::client));
    role_->addItem(tr("anyone's screen: listens only"), static_cast<int>(SharedMarks::Role::anyone));
    column->addWidget(role_);
    user_ = field("shareUser", tr("name at the broker, where it asks for one"));
    password_ = field("sharePassword", tr("password there"));
    password_->setEchoMode(QLineEdit::Password);
    ca_ = field("shareCa", tr("the authority's certificate, for another machine"));
    column->addStretch(1);
    on_ = new KeyButton(QStringLiteral("act-share"), tr("Share"), Qt::Key_H,
                        tr("Share the marks with the other screens, or stop it"), this);
    on_->setObjectName(QStringLiteral("shareOn"));
    on_->setCheckable(true);
    on_->setFixedHeight(56);
    column->addWidget(on_);
    connect(on_, &KeyButton::clicked, this, [this](bool on) {
        if (!on) {
            context_.share.end();
            return;
        }
        MarkShare::Settings s;
        s.broker.host = where_->text().section(QLatin1Char(':'), 0, -2).trimmed().toStdString();
        s.broker.port = where_->text().section(QLatin1Char(':'), -1).toInt();
        s.broker.user = user_->text().toStdString();
        s.broker.password = password_->text().toStdString();
        s.broker.ca_file = ca_->text().trimmed().toStdString();
        s.screen = screen_->text().trimmed();
        s.service = service_->text().trimmed();
        s.role = static_cast<SharedMarks::Role>(role_->currentData().toInt());
        if (s.broker.host.empty() || s.broker.port < 1 || s.broker.port > 65535 || s.screen.isEmpty() ||
            s.service.isEmpty()) {
            context_.session.notices.say(
                QStringLiteral("share"),
                tr("Name the broker as host:port, this screen, and whose marks they are."));
            fill();
            return;
        }
        context_.share.begin(s);
        fill();
    });
    connect(&context_.share, &MarkShare::stateChanged, this, &SharePage::fill);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    where_->setText(QStringLiteral("127.0.0.1:1883"));
    screen_->setText(QStringLiteral("console"));
    service_->setText(QStringLiteral("boat"));
    fill();
}

void SharePage::fill() {
    const auto &share = context_.share;
    on_->setChecked(share.on());
    on_->setText(share.on() ? tr("Stop sharing") : tr("Share"));
    if (share.on()) {
        const auto &s = share.settings();
        where_->setText(
            QStringLiteral("%1:%2").arg(QString::fromStdString(s.broker.host)).arg(s.broker.port));
        screen_->setText(s.screen);
        service_->setText(s.service);
        role_->setCurrentIndex(role_->findData(static_cast<int>(s.role)));
    }
    update();
}

void SharePage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    double y = ca_->geometry().bottom() + 12;
    const double end = on_->geometry().top() - 8;
    const auto line = [&](const QString &words, int px, bool bold, const char *ink) {
        if (y + px + 4 > end)
            return;
        p.setFont(Theme::instance().font(px, bold));
        p.setPen(colour(ink));
        y = paintParagraph(p, {0, y, static_cast<double>(width()), end - y}, words) + 4;
    };
    line(capital(context_.share.state()), 15, true, "ink");
    line(tr("What is for you alone never leaves. Clients hear what is for clients, nothing else."), 13, false,
         "ink2");
    const auto &lost = context_.share.lost();
    for (auto l = lost.rbegin(); l != lost.rend() && l - lost.rbegin() < 4; ++l)
        line(tr("Overruled: %1 was \"%2\"")
                 .arg(QString::fromStdString(l->field), QString::fromStdString(l->value.dump()).left(60)),
             13, false, "ink2");
}

} // namespace heron::app
