// Reckoning the difference in the background, and writing it down.
#include "app/stage/difference_sheet.h"

#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/kit/theme.h"

namespace bronvel {
namespace {

constexpr int difference_width = 300;
constexpr std::size_t most_told = 9;

}  // namespace

DifferenceSheet::DifferenceSheet(Session& session, QWidget* parent) : QFrame(parent), session_(session) {
  setObjectName("difference_sheet");
  setStyleSheet("#difference_sheet { background: " + theme::sheet.name() + "; border: 1.5px solid " +
                theme::compared.name() + "; border-radius: 8px; }");
  setFixedWidth(static_cast<int>(std::lround(difference_width * theme::type_scale)));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 9, 12, 11);
  column->setSpacing(4);
  auto* head = new QHBoxLayout;
  title_ = theme::label(theme::words(13, QFont::Bold), theme::ink, this);
  head->addWidget(title_, 1);
  auto* close = new QToolButton(this);
  close->setObjectName("difference_close");
  close->setText("✕");
  close->setToolTip("close it");
  connect(close, &QToolButton::clicked, this, [this] {
    open(false);
    emit closed();
  });
  head->addWidget(close);
  column->addLayout(head);
  lines_ = theme::label(theme::words(12), theme::ink, this);
  lines_->setObjectName("difference_lines");
  lines_->setWordWrap(true);
  lines_->setTextFormat(Qt::RichText);
  connect(lines_, &QLabel::linkActivated, this, &DifferenceSheet::go_to);
  column->addWidget(lines_);
  hide();
  for (const auto signal : {&Session::takes_changed, &Session::asked_changed, &Session::opened})
    connect(&session_, signal, this, &DifferenceSheet::look);
}

void DifferenceSheet::open(bool on) {
  wanted_ = on;
  look();
}

void DifferenceSheet::look() {
  const KeptTake *now = session_.shown_take(), *before = session_.compared_take();
  const bool seen = wanted_ && now && before && now->take && before->take && !now->playing;
  if (!seen) {
    job_.cancel();
    before_.reset();
    now_.reset();
    difference_.reset();
    if (!isVisible()) return;
    hide();
    emit resized();
    return;
  }
  title_->setText(QString("take %1 beside take %2").arg(now->label.number).arg(before->label.number));
  show();
  if (session_.asking()) return show_lines();  // until it is whole
  if (before_ == before->take && now_ == now->take) return show_lines();
  before_ = before->take;
  now_ = now->take;
  difference_.reset();
  show_lines();
  job_.start([this, first = before_, second = now_](const LatestJob::Wanted& wanted) {
    auto found = std::make_shared<Difference>();
    try {
      // Copies: while one is looked through, it must not keep the bench from it.
      const Take one = first->with([](const Take& take) { return take; });
      const Take other = second->with([](const Take& take) { return take; });
      *found = difference_of(one, other, 1e-3, wanted);
    } catch (const std::exception& e) {
      found->changed.push_back(e.what());
    }
    if (!wanted()) return;
    QMetaObject::invokeMethod(
        this,
        [this, first, second, found] {
          if (before_ != first || now_ != second) return;
          difference_ = *found;
          show_lines();
        },
        Qt::QueuedConnection);
  });
}

void DifferenceSheet::show_lines() {
  QString html;
  if (!difference_) {
    html = "both are played once more for their books…";
  } else {
    const std::vector<std::string> lines = difference_lines(*difference_);
    for (std::size_t k = 0; k < std::min(lines.size(), most_told); ++k) {
      QString line = QString::fromStdString(lines[k]).toHtmlEscaped();
      // Its name leads to the body, at the moment at which it is seen to depart.
      const bool departs = k >= 1 && k <= difference_->departures.size();
      if (departs) {
        const QString name = QString::fromStdString(difference_->departures[k - 1].body).toHtmlEscaped();
        line.replace(0, name.size(),
                     QString("<a style='color:%1' href='%2'>%3</a>").arg(theme::chosen.name()).arg(k - 1).arg(name));
      }
      html += "<p style='margin:0 0 3px 0'>" + line + "</p>";
    }
    if (lines.size() > most_told)
      html += QString("<p style='margin:0; color:%1'>and %2 more</p>")
                  .arg(theme::faint_ink.name())
                  .arg(lines.size() - most_told);
  }
  lines_->setText(html);
  // As tall as its words at this width: the toolkit would ask for too little.
  const int wide = width() - 26;
  lines_->setFixedHeight(lines_->heightForWidth(wide));
  adjustSize();
  raise();
  emit resized();
}

void DifferenceSheet::go_to(const QString& link) {
  const auto k = link.toUInt();
  if (!difference_ || k >= difference_->departures.size()) return;
  const Departure departure = difference_->departures[k];
  session_.choose(departure.body);
  double rate = 0;
  session_.with_take([&](const Take& take, TakeReader&) { rate = take.tick_rate(); });
  session_.look_at_tick(std::llround(departure.time * rate));
}

}  // namespace bronvel
