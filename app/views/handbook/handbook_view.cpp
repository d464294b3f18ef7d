#include "views/handbook/handbook_view.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/place.hpp"

#include <QFile>
#include <QFileDialog>
#include <QPageSize>
#include <QPainter>
#include <QPdfWriter>
#include <QTextBlock>
#include <QTextCursor>
#include <QTextDocument>
#include <QTextList>

namespace heron::app {
namespace {

struct Page {
    const char *file;
    QLatin1String place; ///< whose page it is
};
const Page all_pages[] = {{"00-cautions", QLatin1String()}, {"01-first-evening", QLatin1String("trips")},
                          {"02-prepare", place::prepare},   {"03-scan", place::scan},
                          {"04-read", place::read},         {"05-around", place::around},
                          {"06-chart", place::chart},       {"07-marks", place::marks},
                          {"08-log", place::log},           {"09-practice", place::practice},
                          {"10-screens", place::screen}};
constexpr int keys_wide = 230;

QString markdown(const Page &page) {
    QFile in(QStringLiteral(":/handbook/%1.md").arg(QLatin1String(page.file)));
    return in.open(QIODevice::ReadOnly) ? QString::fromUtf8(in.readAll()) : QString();
}

// Paragraphs apart, pictures as wide as there is room.
void layOut(QTextDocument &document, double room, double apart) {
    QTextCursor cursor(&document);
    cursor.beginEditBlock();
    std::vector<std::pair<int, QTextImageFormat>> pictures;
    for (auto block = document.begin(); block.isValid(); block = block.next()) {
        cursor.setPosition(block.position());
        QTextBlockFormat format;
        format.setBottomMargin(block.textList() != nullptr ? apart / 2 : apart);
        cursor.mergeBlockFormat(format);
        for (auto i = block.begin(); !i.atEnd(); ++i)
            if (const auto fragment = i.fragment(); fragment.charFormat().isImageFormat())
                pictures.emplace_back(fragment.position(), fragment.charFormat().toImageFormat());
    }
    for (auto &[position, format] : pictures) {
        cursor.setPosition(position);
        cursor.setPosition(position + 1, QTextCursor::KeepAnchor);
        format.setWidth(room);
        cursor.setCharFormat(format);
    }
    cursor.endEditBlock();
}

} // namespace

HandbookView::HandbookView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    const QString titles[] = {tr("Before anything else"),
                              tr("First evening"),
                              tr("Prepare"),
                              tr("Scan"),
                              tr("Read"),
                              tr("Around"),
                              tr("Chart"),
                              tr("Marks"),
                              tr("Log"),
                              tr("Practice"),
                              tr("A unit's screen")};
    for (int i = 0; i < static_cast<int>(std::size(all_pages)); ++i) {
        auto *key = new KeyButton(QString(), titles[i], QKeySequence(), titles[i], this);
        key->setObjectName(QStringLiteral("page%1").arg(i));
        key->setCheckable(true);
        connect(key, &KeyButton::clicked, this, [this, i] { show(i); });
        keys_.push_back(key);
    }
    save_ =
        new KeyButton(QString(), tr("As PDF …"), QKeySequence(), tr("The whole handbook as one PDF"), this);
    save_->setObjectName(QStringLiteral("handbookPdf"));
    back_ = new KeyButton(QString(), tr("Back"), Qt::Key_Escape, tr("Back to where you were"), this);
    back_->setObjectName(QStringLiteral("handbookBack"));
    text_ = new QTextBrowser(this);
    text_->setFrameShape(QFrame::NoFrame);
    text_->setOpenLinks(false);
    connect(back_, &KeyButton::clicked, this,
            [this] { context_.window.askPlace(from_.isEmpty() ? QString(place::scan) : from_); });
    connect(save_, &KeyButton::clicked, this, [this] {
        const auto file = QFileDialog::getSaveFileName(this, tr("The handbook as PDF"),
                                                       QStringLiteral("young-heron.pdf"), tr("PDF (*.pdf)"));
        if (!file.isEmpty() && !saveAs(file))
            context_.session.notices.raise(QStringLiteral("handbook"),
                                           Fault{tr("%1 cannot be written").arg(file).toStdString(),
                                                 {},
                                                 tr("choose another folder").toStdString()});
    });
    connect(&Theme::instance(), &Theme::changed, this, &HandbookView::dress);
    dress();
    show(0);
}

void HandbookView::openFor(const QString &id) {
    from_ = id;
    int page = 0;
    for (int i = 0; i < pages(); ++i)
        if (!all_pages[i].place.isEmpty() && id == all_pages[i].place)
            page = i;
    show(page);
}

void HandbookView::show(int page) {
    page_ = page;
    for (int i = 0; i < pages(); ++i)
        keys_[static_cast<std::size_t>(i)]->setChecked(i == page);
    text_->setMarkdown(markdown(all_pages[page]));
    layOut(*text_->document(), std::max(200, text_->width() - 60), 10);
    text_->moveCursor(QTextCursor::Start);
}

void HandbookView::dress() {
    text_->setStyleSheet(QStringLiteral("QTextBrowser { background: %1; color: %2; border: none; }")
                             .arg(colour("page").name(), colour("ink").name()));
    text_->document()->setDefaultFont(Theme::instance().font(17));
    text_->document()->setDocumentMargin(20);
    show(page_);
    update();
}

bool HandbookView::saveAs(const QString &file) const {
    QFile out(file);
    if (!out.open(QIODevice::WriteOnly))
        return false;
    QPdfWriter writer(&out);
    writer.setPageSize(QPageSize(QPageSize::A4));
    writer.setPageMargins({18, 18, 18, 18}, QPageLayout::Millimeter);
    writer.setTitle(tr("Young Heron: the handbook"));
    writer.setResolution(96);
    QString all;
    for (const auto &page : all_pages)
        all += markdown(page) + QStringLiteral("\n\n");
    QTextDocument document;
    document.setDefaultFont(Theme::instance().font(13));
    document.setMarkdown(all);
    layOut(document, writer.width() - 20, 6);
    document.print(&writer);
    return out.error() == QFileDevice::NoError;
}

void HandbookView::resizeEvent(QResizeEvent *) {
    const int half = (keys_wide - 24) / 2, each = std::clamp((height() - 24 - 52) / pages(), 48, 54);
    int y = 12;
    for (auto *key : keys_) {
        key->setGeometry(12, y, keys_wide - 20, each - 4);
        y += each;
    }
    const int below = std::max(y, height() - 56);
    save_->setGeometry(12, below, half, 44);
    back_->setGeometry(16 + half, below, half, 44);
    text_->setGeometry(keys_wide, 0, std::min(width() - keys_wide, 860), height());
    show(page_);
}

void HandbookView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1));
    p.drawLine(keys_wide - 4, 0, keys_wide - 4, height());
}

} // namespace heron::app
