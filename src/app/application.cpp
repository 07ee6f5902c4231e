// Catching what slots throw.
#include "app/application.h"

#include <cstdio>

namespace bronvel {

bool Application::notify(QObject* receiver, QEvent* event) {
  QString what;
  try {
    return QApplication::notify(receiver, event);
  } catch (const std::bad_alloc&) {
    what = "There is not enough memory for this.";
  } catch (const std::exception& e) {
    what = e.what();
    ++unexpected_;
  } catch (...) {
    what = "Something went wrong that has no name.";
    ++unexpected_;
  }
  if (listener_)
    listener_(what);
  else
    std::fprintf(stderr, "bronvel: %s\n", qPrintable(what));
  return true;
}

}  // namespace bronvel
