-- nudge.lua: a breeze along the quay.
-- Pushes its body for a while, then lets it roll.
dials {
  push = { 3.0, unit = "N", from = -10, to = 10,
           tip = "steady push along the quay" },
  blow = { 2.5, unit = "s", from = 0, to = 6,
           tip = "how long the breeze lasts" },
}

local blowing = true

function on.play()
  after(dials.blow, function()
    blowing = false
    print("breeze over, velocity", body.velocity)
  end)
end

function on.tick(dt)
  if blowing then
    body:force(vec(dials.push, 0, 0))
  end
end

function on.touch(hit)
  if hit.speed > 1 then
    print("hit", hit.other, "at", hit.speed, "m/s")
  end
end
