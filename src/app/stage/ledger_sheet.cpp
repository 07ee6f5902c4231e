// Drawing the ledger: what was there, bars from a middle line, what is there now.
#include "app/stage/ledger_sheet.h"

#include <QMouseEvent>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/kit/cause_look.h"
#include "app/kit/theme.h"
#include "app/session/why.h"

namespace bronvel {
namespace {

constexpr int ledger_width = 252, rim = 14, line_height = 18;
constexpr std::size_t most_lines = 9;

QString joules(double energy, bool sign = false) {
  const QString text = QString::fromStdString(energy_text(energy)).replace('-', "−");
  return sign && energy > 0 ? "+" + text : text;
}

}  // namespace

/// Title, energies and bars, painted.
class LedgerBars : public QWidget {
 public:
  LedgerBars(Session& session, QWidget* parent) : QWidget(parent), session_(session) { setMouseTracking(true); }

  void show_ledger(const std::optional<Ledger>& ledger, double tick_rate) {
    ledger_ = ledger;
    tick_rate_ = tick_rate;
    setFixedHeight(tall());
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const BodyNames& names = session_.chosen_bodies();
    const QString whose = names.size() == 1 ? QString::fromStdString(names[0]) : QString("%1 bodies").arg(names.size());
    int y = 10;
    write(painter, y, "energy of " + whose, theme::words(13, QFont::Bold), theme::ink, Qt::AlignLeft);
    y += line_height + 2;
    if (!ledger_) {
      write(painter, y, session_.why().on_its_way() ? "being reckoned…" : "choose a dynamic body", theme::words(11),
            theme::faint_ink, Qt::AlignLeft);
      return;
    }
    const auto time = [&](std::int64_t tick) {
      return QString::number(static_cast<double>(tick) / tick_rate_, 'f', 3);
    };
    write(painter, y, time(ledger_->from) + " to " + time(ledger_->to) + " s", theme::numbers(11), theme::accent,
          Qt::AlignLeft);
    y += line_height;
    const auto pair = [&](const QString& name, const QString& value) {
      write(painter, y, name, theme::words(11), theme::faint_ink, Qt::AlignLeft);
      write(painter, y, value, theme::numbers(12, QFont::Medium), theme::ink, Qt::AlignRight);
      y += line_height;
    };
    pair("of motion", joules(ledger_->kinetic_before) + " → " + joules(ledger_->kinetic_after));
    pair("of height", joules(ledger_->lifted, true));
    y += 4;
    double most = 1e-12;
    for (const LedgerLine& line : ledger_->lines) most = std::max(most, std::abs(line.net()));
    for (std::size_t k = 0; k < shown(); ++k) {
      const LedgerLine& line = ledger_->lines[k];
      bar(painter, y, QString::fromStdString(line.cause.text()), line.net(), most, cause_colour(line.cause),
          session_.why().pointed() == line.cause);
      y += line_height + 8;
    }
    double rest = ledger_->solver;
    for (std::size_t k = shown(); k < ledger_->lines.size(); ++k) rest += ledger_->lines[k].net();
    const bool others = ledger_->lines.size() > shown();
    pair(others ? "all others" : "the engine itself", joules(rest, true));
  }

  void mouseMoveEvent(QMouseEvent* event) override {
    const int first = 10 + 4 * line_height + 6;
    const auto row = (static_cast<int>(event->position().y()) - first) / (line_height + 8);
    const bool on = ledger_ && event->position().y() >= first && row < static_cast<int>(shown());
    session_.why().point_at(on ? std::optional(ledger_->lines[static_cast<std::size_t>(row)].cause) : std::nullopt);
  }
  void leaveEvent(QEvent*) override { session_.why().point_at(std::nullopt); }

 private:
  std::size_t shown() const { return ledger_ ? std::min(ledger_->lines.size(), most_lines) : 0; }
  int tall() const {
    if (!ledger_) return 10 + 3 * line_height;
    return 10 + 4 * line_height + 6 + static_cast<int>(shown()) * (line_height + 8) + line_height + 10;
  }
  void write(QPainter& painter, int y, const QString& text, const QFont& font, const QColor& colour,
             Qt::Alignment where) const {
    painter.setFont(font);
    painter.setPen(colour);
    painter.drawText(QRect(rim, y, width() - 2 * rim, line_height), where | Qt::AlignVCenter, text);
  }
  // From the middle to the right what it gave, to the left what it took.
  void bar(QPainter& painter, int y, const QString& name, double energy, double most, const QColor& colour,
           bool pointed) const {
    write(painter, y, painter.fontMetrics().elidedText(name, Qt::ElideRight, width() - 2 * rim - 70),
          theme::words(11, pointed ? QFont::Bold : QFont::Normal), colour, Qt::AlignLeft);
    write(painter, y, joules(energy, true), theme::numbers(11, QFont::Medium), colour, Qt::AlignRight);
    const double middle = width() / 2.0, half = middle - rim, long_as = half * std::abs(energy) / most;
    const int under = y + line_height - 1;
    painter.setPen(QPen(theme::rule, 1));
    painter.drawLine(QPointF(middle, under), QPointF(middle, under + 6));
    painter.fillRect(QRectF(energy >= 0 ? middle : middle - long_as, under + 1, std::max(long_as, 1.0), 4), colour);
  }

  Session& session_;
  std::optional<Ledger> ledger_;
  double tick_rate_ = 60;
};

LedgerSheet::LedgerSheet(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("ledger_sheet");
  setStyleSheet("#ledger_sheet { background: " + theme::sheet.name() + "; border: 1.5px solid " + theme::ink.name() +
                "; border-radius: 8px; }");
  setFixedWidth(static_cast<int>(std::lround(ledger_width * theme::type_scale)));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 1, 1, 1);
  bars_ = new LedgerBars(session_, this);
  column->addWidget(bars_);
  auto* close = new QToolButton(this);
  close->setObjectName("ledger_close");
  close->setText("✕");
  close->setToolTip("close the energy ledger");
  close->setGeometry(width() - 30, 6, 24, 22);
  connect(close, &QToolButton::clicked, this, [this] {
    open(false);
    emit closed();
  });
  hide();
  connect(&session_.why(), &Why::changed, this, &LedgerSheet::renew);
  connect(&session_.why(), &Why::pointed_changed, bars_, [this] { bars_->update(); });
  connect(&session_, &Session::opened, this, [this] { show_stretch(std::nullopt); });
}

void LedgerSheet::open(bool on) {
  wanted_ = on;
  renew();
}

void LedgerSheet::show_stretch(const std::optional<std::pair<double, double>>& stretch) {
  stretch_ = stretch;
  renew();
}

void LedgerSheet::renew() {
  const bool seen = wanted_ && session_.in_past();
  ledger_.reset();
  const Booked* booked = session_.why().booked();
  if (seen && booked && session_.why().known()) {
    std::vector<const BookedBody*> bodies;
    for (const BookedBody& body : booked->bodies) bodies.push_back(&body);
    std::int64_t from = 0, to = session_.tick();
    if (stretch_) {
      from = std::llround(std::min(stretch_->first, stretch_->second) * booked->tick_rate);
      to = std::llround(std::max(stretch_->first, stretch_->second) * booked->tick_rate);
    }
    if (to > from) ledger_ = ledger_of(bodies, from, to);
    bars_->show_ledger(ledger_, booked->tick_rate);
  } else {
    bars_->show_ledger(ledger_, 1);
  }
  const bool was = isVisible();
  setVisible(seen);
  if (!seen && !was) return;
  adjustSize();
  raise();
  emit resized();
}

}  // namespace bronvel
