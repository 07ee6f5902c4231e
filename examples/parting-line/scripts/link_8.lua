-- What this body does.
dials {
  push = { 3, unit = "N", from = 0, to = 20, tip = "steady pull along X" },
}

function on.tick(dt)
  body:force(vec(dials.push, 0, 0))
end
