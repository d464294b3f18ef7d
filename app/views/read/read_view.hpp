// The place Read: what was found, as chips; the selected one enlarged over its section; what it may be and
// why.
#pragma once

#include "parts/view_context.hpp"
#include "reading/contact_list.hpp"
#include "reading/contact_words.hpp"

#include <QWidget>
#include <map>

namespace heron::app {

class PictureOverSection;
class ItemList;
class KeyButton;
class PassCompare;
class ContactPanel;

class ReadView : public QWidget {
    Q_OBJECT
  public:
    ReadView(ViewContext &context, QWidget *parent = nullptr);
    /// The contacts that the filter lets through, by the order chosen.
    const std::vector<const Contact *> &shown() const { return shown_; }
    const Contact *selected() const;
    PictureOverSection &fold() { return *fold_; }
    using Order = ContactList::Order;
    Order order() const { return model_->order(); }
    std::optional<Family> only() const { return model_->only(); }
    /// What was read of the sides, or of the circle at the bow.
    ReadContacts &read() { return *read_; }
    void setCircle(bool on);
    ContactPanel &side() { return *side_; }
    PassCompare &passes() { return *passes_; }
    /// Selects what lies nearest to a place, as after a second look.
    void takeNear(const GeoPoint &place);

    static constexpr int right_width = 272;

  protected:
    void paintEvent(QPaintEvent *event) override;
    void resizeEvent(QResizeEvent *event) override;
    void keyPressEvent(QKeyEvent *event) override;
    void showEvent(QShowEvent *event) override;

  private:
    KeyButton *addKey(const char *name, const QString &glyph, const QString &text, const QKeySequence &letter,
                      const QString &tip);
    void refresh();
    void layOut();
    int idOf(const Contact &contact) const;
    void take(int index);
    void select(int id);
    void enableKeys(bool on);
    bool circle() const { return read_ != &context_.reader; }
    void mark();
    QImage chipOf(const Contact &contact);
    QString length(double m, int decimals = 1) const;
    void showFolded(const Contact *contact);
    void paintFigures(QPainter &p);
    void paintFigure(QPainter &p, const QRect &box, const ContactFact &fact);
    void addKeys();
    void addList();

    ViewContext &context_;
    ReadContacts *read_;
    ContactList *model_;
    ItemList *list_;
    PictureOverSection *fold_;
    ContactPanel *side_;
    PassCompare *passes_;
    KeyButton *all_, *fish_, *structure_, *bottom_, *order_key_, *circle_key_, *mark_, *passes_key_, *scan_,
        *before_, *next_;
    std::vector<const Contact *> shown_;
    int selected_on_circle_ = 0; ///< the sides' is the window's
    std::map<std::pair<std::size_t, int>, QImage> chips_;
};

} // namespace heron::app
