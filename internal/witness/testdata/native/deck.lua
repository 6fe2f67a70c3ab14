-- A deck of the ferry, loaded and checked.
local deck = {}
for lane = 1, 40 do deck[lane] = lane * lane % 17 end
print(#deck, table.concat({1, 2, 3}, ","), string.format("%5.2f", math.pi))
print(pcall(function() error("too heavy") end))
local loader = coroutine.wrap(function(a) local b = coroutine.yield(a + 1) return b * 2 end)
print(loader(1), loader(10))
print(string.gsub("hello ferry", "e", "3"), 7 // 2, 7 % 3, 2 ^ 10, 1 << 4)
table.sort(deck)
local total = 0
for _, weight in ipairs(deck) do if weight > 10 then total = total + weight elseif weight == 0 then goto none end ::none:: end
print(total, load("return 1 + 1")(), select("#", table.unpack(deck, 1, 10)), tostring(nil), #arg)
local night <close> = setmetatable({}, {__close = function() print("closed") end})
