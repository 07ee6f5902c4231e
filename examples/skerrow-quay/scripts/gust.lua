-- gust.lua: kicks its body at random moments.
-- Another seed gives other gusts.
dials {
  kick  = { 6, unit = "N·s", from = 0, to = 30,
            tip = "greatest impulse of a gust" },
  pause = { 1.6, unit = "s", from = 0.2, to = 5,
            tip = "longest wait between gusts" },
}

local function blow()
  local way = vec(random(-1, 1),
                  random(0.2, 1),
                  random(-0.3, 0.3))
  body:impulse(way * dials.kick)
  after(random(0.4, 1) * dials.pause, blow)
end

function on.play()
  after(dials.pause, blow)
end
