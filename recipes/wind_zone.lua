-- Wind: in any zone that senses this body it is
-- pushed by gusts that come and go.
-- needs zone
dials {
  force = { 25, unit = "N", from = 0, to = 200,
            tip = "mean push along X" },
  gust = { 0.6, from = 0, to = 1,
         tip = "how much it swings about the mean" },
  period = { 2.2, unit = "s", from = 0.3, to = 8,
             tip = "from gust to gust" },
}

local inside = 0

function on.enter() inside = inside + 1 end
function on.leave() inside = inside - 1 end

function on.tick()
  if inside == 0 then return end
  local time = scene.time
  local turn = 2 * math.pi * time / dials.period
  local swing = 1 + dials.gust * math.sin(turn)
  body:force(vec(dials.force * swing, 0, 0))
end
