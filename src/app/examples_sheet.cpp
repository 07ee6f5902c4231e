// Showing the examples.
#include "app/examples_sheet.h"

#include <QDir>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QListWidget>
#include <QPixmap>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/kit/theme.h"
#include "app/session/folders.h"
#include "scene/files/folder.h"

namespace bronvel {

ExamplesSheet::ExamplesSheet(QWidget* parent) : QFrame(parent) {
  setObjectName("examples_sheet");
  setStyleSheet(
      "#examples_sheet { background: " + theme::sheet.name() + "; border: 1px solid " + theme::ink.name() +
      "; border-radius: 10px; } QListWidget { background: transparent; border: none; } QListWidget::item:hover { "
      "background: " +
      theme::well.name() + "; border-radius: 6px; } QListWidget::item:selected { background: " +
      theme::chosen_wash.name() + "; border-radius: 6px; }");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 10, 10, 10);
  auto* head = new QHBoxLayout;
  head->addWidget(theme::label(theme::words(15, QFont::Bold), theme::ink, this, "Examples from the harbour"));
  head->addWidget(
      theme::label(theme::words(12), theme::faint_ink, this, "a click opens one; your own scene stays on disk"));
  head->addStretch(1);
  auto* close = new QToolButton(this);
  close->setText("✕");
  close->setToolTip("close (Esc)");
  connect(close, &QToolButton::clicked, this, &QFrame::hide);
  head->addWidget(close);
  column->addLayout(head);
  list_ = new QListWidget(this);
  list_->setObjectName("examples");
  list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setResizeMode(QListView::Adjust);
  list_->setFlow(QListView::LeftToRight);
  list_->setWrapping(true);
  column->addWidget(list_, 1);
  connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
    hide();
    emit picked(item->data(Qt::UserRole).toString());
  });
  hide();
}

void ExamplesSheet::fill() {
  const QDir folder(QString::fromStdString(examples_folder()));
  constexpr int picture_width = 150, picture_height = 94;
  const int width = std::max(380, (this->width() - 60) / 2);
  for (const QString& entry : folder.entryList(QDir::Dirs | QDir::NoDotAndDotDot)) {
    const QString path = folder.filePath(entry);
    QString name = entry, about;
    try {
      const SceneFolder scene = open_folder(path.toStdString());
      name = QString::fromStdString(scene.scene.name);
      about = QString::fromStdString(scene.scene.about);
    } catch (const std::exception& e) {
      about = e.what();
    }
    auto* row = new QWidget(list_);
    auto* inner = new QHBoxLayout(row);
    inner->setContentsMargins(8, 7, 10, 7);
    inner->setSpacing(12);
    auto* picture = new QLabel(row);
    picture->setFixedSize(picture_width, picture_height);
    const QPixmap thumbnail(folder.filePath(entry + "/thumbnail.png"));
    if (!thumbnail.isNull())
      picture->setPixmap(
          thumbnail.scaled(picture_width, picture_height, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation));
    picture->setStyleSheet("border: 1px solid " + theme::rule.name());
    inner->addWidget(picture);
    auto* words = theme::label(theme::words(12), theme::ink, row,
                               "<b>" + name.toHtmlEscaped() + "</b><br><span style='color:" + theme::faint_ink.name() +
                                   "'>" + about.toHtmlEscaped() + "</span>");
    words->setWordWrap(true);
    words->setAlignment(Qt::AlignTop);
    inner->addWidget(words, 1);
    auto* item = new QListWidgetItem(list_);
    item->setData(Qt::UserRole, path);
    item->setSizeHint({width, picture_height + 14});
    row->setAttribute(Qt::WA_TransparentForMouseEvents);
    list_->setItemWidget(item, row);
  }
}

void ExamplesSheet::open() {
  if (list_->count() == 0) fill();
  show();
  raise();
  list_->setFocus();
}

void ExamplesSheet::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape)
    hide();
  else
    QFrame::keyPressEvent(event);
}

}  // namespace bronvel
