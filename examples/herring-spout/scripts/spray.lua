-- Spray of copies, each lighter than the body itself, thrown upwards in all directions while the action is held.
-- needs action: spray (space)
dials {
  rate = { 8, unit = "1/s", from = 1, to = 30, tip = "copies a second" },
  speed = { 5, unit = "m/s", from = 0, to = 15, tip = "how fast they leave" },
  share = { 0.3, from = 0.05, to = 1, tip = "mass of a copy against the body's" },
  life = { 4, unit = "s", from = 0.5, to = 20, tip = "how long a copy stays" },
}

local owed = 0

function on.tick(dt)
  if not held("spray") then return end
  owed = owed + dials.rate * dt
  while owed >= 1 do
    owed = owed - 1
    local angle = random(0, 2 * math.pi)
    local out = vec(math.cos(angle), 0, math.sin(angle))
    local copy = scene:stamp(body, {
      position = body.position + vec(0, 1, 0) + out * 0.3,
      velocity = (out + vec(0, 2, 0)):unit() * dials.speed,
      mass = body.mass * dials.share,
      kind = "dynamic",
      scripts = false,
    })
    after(dials.life, function() if copy.alive then copy:remove() end end)
  end
end
