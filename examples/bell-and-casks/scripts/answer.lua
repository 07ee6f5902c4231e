-- Hops when it is told to, from the ground, by so
-- many m/s times its own liveliness.
dials {
  liveliness = { 1.5, unit = "×", from = 0.5, to = 3,
                 tip = "how high it goes" },
}

function on.message(name, speed)
  if name == "hop" and body.grounded then
    local push = body.mass * speed * dials.liveliness
    body:impulse(vec(0, push, 0))
  end
end
