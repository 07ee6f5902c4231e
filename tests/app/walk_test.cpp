// A walk through all pages and sheets: nothing is cut, nothing overlaps, nothing is out of view, all can be read and
// reached by keyboard. Run at 1280×800, and at 1920×1200 with everything half as large again.
#include <QAbstractButton>
#include <QAbstractScrollArea>
#include <QButtonGroup>
#include <QHeaderView>
#include <QLabel>
#include <QLayout>
#include <QLineEdit>
#include <QScrollArea>
#include <QTextDocument>
#include <catch2/catch.hpp>
#include <cmath>

#include "app/guide.h"
#include "app/kit/theme.h"
#include "app/session/why.h"
#include "app/window.h"

using namespace bronvel;

namespace {

QString name_of(const QWidget* widget) {
  QString text = widget->metaObject()->className() + QString(" ") + widget->objectName();
  if (const auto* label = qobject_cast<const QLabel*>(widget)) text += " '" + label->text().left(40) + "'";
  if (const auto* button = qobject_cast<const QAbstractButton*>(widget)) text += " '" + button->text() + "'";
  return text + " in " + (widget->parentWidget() ? widget->parentWidget()->objectName() : "");
}

// Whether it lies in something that scrolls, so that not all of it need be seen.
bool scrolls(const QWidget* widget) {
  for (const QWidget* above = widget->parentWidget(); above; above = above->parentWidget())
    if (qobject_cast<const QAbstractScrollArea*>(above)) return true;
  return false;
}

void check_text(const QLabel& label, QStringList& faults) {
  if (label.text().isEmpty() || !label.pixmap(Qt::ReturnByValue).isNull()) return;
  const QRect room = label.contentsRect();
  QString words = label.text();
  if (Qt::mightBeRichText(words)) {
    QTextDocument document;
    document.setHtml(words);
    words = document.toPlainText();
  }
  const QFontMetrics metrics(label.font());
  if (label.wordWrap()) {
    const int wanted = metrics.boundingRect(0, 0, room.width(), 10000, Qt::TextWordWrap, words).height();
    if (wanted > room.height() + metrics.descent()) faults << "cut below: " + name_of(&label);
    return;
  }
  for (const QString& line : words.split('\n'))
    if (metrics.horizontalAdvance(line) > room.width() + 1) faults << "cut: " + name_of(&label);
}

void check_text(const QAbstractButton& button, QStringList& faults) {
  if (button.text().isEmpty()) return;
  int wanted = QFontMetrics(button.font()).horizontalAdvance(button.text());
  if (!button.icon().isNull()) wanted += button.iconSize().width();
  if (wanted > button.width() + 1) faults << "cut: " + name_of(&button);
}

void check_text(const QLineEdit& field, QStringList& faults) {
  if (field.hasFocus() || scrolls(&field)) return;
  if (QFontMetrics(field.font()).horizontalAdvance(field.text()) > field.width() && field.objectName() != "places_path")
    faults << "cut: " + name_of(&field) + " " + field.text();
}

// Whether it stands in this layout, or in one within it.
bool laid_out(QLayout* layout, QWidget* widget) {
  if (layout->indexOf(widget) >= 0) return true;
  for (int i = 0; i < layout->count(); ++i)
    if (QLayout* inner = layout->itemAt(i)->layout(); inner && laid_out(inner, widget)) return true;
  return false;
}

// Titles of a table's columns.
void check_text(const QHeaderView& header, QStringList& faults) {
  if (header.orientation() != Qt::Horizontal) return;
  const QFontMetrics metrics(header.font());
  for (int i = 0; i < header.count(); ++i) {
    const QString words = header.model()->headerData(i, Qt::Horizontal).toString();
    if (!header.isSectionHidden(i) && metrics.horizontalAdvance(words) + 8 > header.sectionSize(i) + 1)
      faults << "cut: title '" + words + "' in " + header.parentWidget()->objectName();
    // With larger type a table may have to be scrolled.
    if (theme::type_scale == 1 &&
        header.sectionViewportPosition(i) + header.sectionSize(i) > header.viewport()->width() + 1)
      faults << "out of view: title '" + words + "' in " + header.parentWidget()->objectName();
  }
}

QStringList faults_of(QWidget& window) {
  QStringList faults;
  const QRect whole = window.rect();
  for (QWidget* widget : window.findChildren<QWidget*>()) {
    if (!widget->isVisible() || widget->size().isEmpty() || widget->isWindow()) continue;
    if (const auto* label = qobject_cast<QLabel*>(widget)) check_text(*label, faults);
    if (const auto* button = qobject_cast<QAbstractButton*>(widget)) check_text(*button, faults);
    if (const auto* field = qobject_cast<QLineEdit*>(widget)) check_text(*field, faults);
    if (const auto* header = qobject_cast<QHeaderView*>(widget)) check_text(*header, faults);
    // What scrolls does so up and down alone.
    if (const auto* area = qobject_cast<QScrollArea*>(widget); area && area->widget())
      if (area->widget()->width() > area->viewport()->width() + 1) faults << "cut on the right: " + name_of(area);
    if (scrolls(widget)) continue;
    const QRect place(widget->mapTo(&window, QPoint()), widget->size());
    if (!whole.contains(place)) faults << "out of view: " + name_of(widget);
    QWidget* parent = widget->parentWidget();
    if (!parent || !parent->layout() || parent == &window) continue;
    // What one widget holds in layouts lies side by side.
    for (QWidget* other : parent->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
      if (other <= widget || !other->isVisible() || other->isWindow()) continue;
      if (!laid_out(parent->layout(), widget) || !laid_out(parent->layout(), other)) continue;
      if (other->geometry().intersects(widget->geometry()))
        faults << "overlap: " + name_of(widget) + " and " + name_of(other);
    }
  }
  faults.removeDuplicates();
  return faults;
}

void look(Window& w, const QString& where) {
  QTest::qWait(30);  // layouts settle
  for (const QString& fault : faults_of(w.bench)) FAIL_CHECK(where.toStdString() << ": " << fault.toStdString());
}

double luminance(const QColor& colour) {
  const auto part = [](double c) { return c <= 0.03928 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4); };
  return 0.2126 * part(colour.redF()) + 0.7152 * part(colour.greenF()) + 0.0722 * part(colour.blueF());
}

}  // namespace

TEST_CASE("all pages and sheets: no word is cut, nothing overlaps, nothing is out of view") {
  Window w("skerrow-quay");
  for (const QMenu* menu : w.bench.findChildren<QMenu*>()) CHECK(menu->layoutDirection() == Qt::LeftToRight);
  look(w, "as opened");
  for (const QString& page : w.bench.deck()->page_names()) {
    w.bench.deck()->show_page(page);
    look(w, "page " + page);
  }
  w.click("play");
  REQUIRE(w.play(150));
  for (const QString& page : w.bench.deck()->page_names()) {
    w.bench.deck()->show_page(page);
    look(w, "in play, page " + page);
  }
  w.click("stop");
  w.bench.deck()->show_page("Takes");
  w.bench.session().look_at_tick(77);
  REQUIRE(wait_until([&] { return w.bench.session().why().known() && !w.bench.session().why().on_its_way(); }));
  look(w, "in the past");
  w.bench.session().live();
  QTest::keyClick(&w.bench, Qt::Key_F1);
  look(w, "the list of commands");
  QTest::keyClick(w.find<QLineEdit>("command_words"), Qt::Key_Escape);
  for (const auto key : {Qt::Key_O, Qt::Key_S}) {
    QTest::keyClick(&w.bench, key, key == Qt::Key_S ? Qt::ControlModifier | Qt::ShiftModifier : Qt::ControlModifier);
    look(w, "places");
    w.click("places_close");
  }
  for (const char* example : {"bell-and-casks", "three-bells", "ice-dam", "loaded-barge", "harbour-cart"}) {
    REQUIRE(w.bench.open(QString::fromStdString(in_checkout("/examples/") + example)));
    const auto& bodies = w.bench.session().scene().bodies;
    for (std::size_t i = 0; i < std::min<std::size_t>(bodies.size(), 3); ++i) {
      w.bench.session().choose(bodies[bodies.size() - 1 - i].name);
      look(w, QString(example) + ", " + QString::fromStdString(bodies[bodies.size() - 1 - i].name));
    }
  }
}

TEST_CASE("what is written can be told from what it is written on, on both sheets") {
  auto& app = *qobject_cast<QApplication*>(QCoreApplication::instance());
  for (const theme::Sheet sheet : {theme::Sheet::dark, theme::Sheet::light}) {
    theme::apply(app, sheet);
    for (const auto& [writing, under] : theme::written_pairs()) {
      const double a = luminance(writing), b = luminance(under);
      INFO((sheet == theme::Sheet::dark ? "dark: " : "light: ")
           << writing.name().toStdString() << " on " << under.name().toStdString());
      CHECK((std::max(a, b) + 0.05) / (std::min(a, b) + 0.05) >= 4.5);
    }
  }
}

TEST_CASE("every button and field is reached by Tab, and where one is can be seen") {
  Window w("skerrow-quay");
  w.find<Guide>("guide")->hide();
  int looked_at = 0;
  for (QWidget* widget : w.bench.findChildren<QWidget*>()) {
    const bool acts = qobject_cast<QAbstractButton*>(widget) || qobject_cast<QLineEdit*>(widget);
    if (!acts || !widget->isVisible() || !widget->isEnabled()) continue;
    const auto* field = qobject_cast<QLineEdit*>(widget);
    if (field && field->isReadOnly()) continue;
    // Of buttons of which one is pressed, that one is reached; arrows go on to the others.
    const auto* button = qobject_cast<QAbstractButton*>(widget);
    if (button && button->group() && button->group()->exclusive() && !button->isChecked()) continue;
    INFO(name_of(widget).toStdString());
    CHECK((widget->focusPolicy() & Qt::TabFocus) != 0);
    w.bench.stage()->setFocus();
    const QImage before = widget->grab().toImage();
    widget->setFocus(Qt::TabFocusReason);
    CHECK(widget->hasFocus());
    CHECK(widget->grab().toImage() != before);
    ++looked_at;
  }
  CHECK(looked_at > 40);
}
