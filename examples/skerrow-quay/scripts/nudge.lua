-- nudge.lua: a breeze along the quay. Pushes its body sideways for a while, then lets it roll.
-- Turn `push` while it plays; 0 lets the fender come to rest where it dropped.
dials {
  push  = { 3.0, unit = "N", from = -10, to = 10, tip = "steady push along the quay" },
  blow  = { 2.5, unit = "s", from = 0, to = 6, tip = "how long the breeze lasts" },
}

local blowing = true
local hits = 0

function on.play()
  after(dials.blow, function()
    blowing = false
    print("the breeze drops at", body.velocity)
  end)
end

function on.tick(dt)
  if blowing then body:force(vec(dials.push, 0, 0)) end
end

function on.touch(hit)
  hits = hits + 1
  if hit.speed > 1 then print("hit", hit.other, "at", hit.speed, "m/s") end
end
