// Notes at the right of the editor's lines: what each did to what is chosen, and a spark line over the take.
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>
#include <algorithm>

#include "app/desk/script_editor.h"
#include "app/kit/theme.h"

namespace bronvel {
namespace {

constexpr int spark_width = 46;  // pixels
constexpr int gap = 8;           // pixels

}  // namespace

void ScriptEditor::show_notes(std::map<int, LineNote> notes) {
  if (notes.empty() && notes_.empty()) return;
  notes_ = std::move(notes);
  viewport()->update();
}

// On the last row of the line, at the right.
std::optional<QRect> ScriptEditor::place_of(int line) const {
  const auto note = notes_.find(line);
  if (note == notes_.end() || line < 1 || line > lines()) return std::nullopt;
  const long end = SendScintilla(SCI_GETLINEENDPOSITION, static_cast<unsigned long>(line - 1));
  const auto top = static_cast<int>(SendScintilla(SCI_POINTYFROMPOSITION, 0UL, end));
  const auto tall = static_cast<int>(SendScintilla(SCI_TEXTHEIGHT, static_cast<unsigned long>(line - 1)));
  const int words = QFontMetrics(theme::numbers(11)).horizontalAdvance(note->second.words);
  // What is written comes before what it did over the take, and that before nothing.
  const auto written = static_cast<int>(SendScintilla(SCI_POINTXFROMPOSITION, 0UL, end));
  const int room = viewport()->width() - written - gap;
  const bool spark = !note->second.spark.empty() && words + spark_width + 2 * gap <= room;
  const int wide = words + (spark ? spark_width + gap : 0);
  return QRect(viewport()->width() - wide - 4, top, wide, tall);
}

void ScriptEditor::draw_note(QPainter& painter, int line, const LineNote& note) const {
  const auto place = place_of(line);
  if (!place || !place->intersects(viewport()->rect())) return;
  int row = 0, column = 0;
  getCursorPosition(&row, &column);
  QColor under = row == line - 1 ? theme::current_line : theme::sheet;
  under.setAlpha(235);
  painter.fillRect(place->adjusted(-4, 0, 4, 0), under);
  painter.setFont(theme::numbers(11));
  painter.setPen(note.colour);
  const int words = painter.fontMetrics().horizontalAdvance(note.words);
  painter.drawText(QRect(place->left(), place->top(), words, place->height()), Qt::AlignVCenter | Qt::AlignLeft,
                   note.words);
  if (place->width() < words + spark_width) return;
  const float most = std::max(1e-12F, *std::max_element(note.spark.begin(), note.spark.end()));
  const QRect box(place->right() - spark_width, place->top() + 3, spark_width, place->height() - 6);
  QPolygonF curve;
  for (std::size_t k = 0; k < note.spark.size(); ++k)
    curve << QPointF(box.left() + static_cast<double>(k) * box.width() / static_cast<double>(note.spark.size() - 1),
                     box.bottom() - static_cast<double>(note.spark[k] / most) * (box.height() - 1));
  painter.setPen(QPen(note.colour, 1.1));
  painter.drawPolyline(curve);
  if (note.head < 0) return;
  const int x = box.left() + static_cast<int>(note.head * box.width());
  painter.setPen(QPen(theme::accent, 1.2));
  painter.drawLine(x, box.top() - 2, x, box.bottom() + 2);
}

void ScriptEditor::paintEvent(QPaintEvent* event) {
  QsciScintilla::paintEvent(event);
  if (notes_.empty()) return;
  QPainter painter(viewport());
  painter.setRenderHint(QPainter::Antialiasing);
  for (const auto& [line, note] : notes_) draw_note(painter, line, note);
}

bool ScriptEditor::viewportEvent(QEvent* event) {
  const auto line_at = [&](const QPoint& at) {
    for (const auto& [line, note] : notes_)
      if (const auto place = place_of(line); place && place->contains(at)) return line;
    return 0;
  };
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const int line = line_at(help->pos())) {
      QToolTip::showText(help->globalPos(), notes_.at(line).tip, this);
      return true;
    }
  }
  if (event->type() == QEvent::MouseButtonPress) {
    const auto* press = static_cast<QMouseEvent*>(event);
    if (const int line = line_at(press->position().toPoint())) {
      emit note_clicked(line);
      return true;
    }
  }
  return QsciScintilla::viewportEvent(event);
}

}  // namespace bronvel
