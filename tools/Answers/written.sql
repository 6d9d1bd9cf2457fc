SELECT * FROM pick ORDER BY id

SELECT id, kilos FROM pick WHERE kilos > 20 ORDER BY id

SELECT id FROM pick WHERE kilos >= 20.5 AND kilos < 30 ORDER BY id

SELECT id FROM pick WHERE kilos IS NULL ORDER BY id

SELECT id FROM pick WHERE kilos IS NOT NULL AND crew IS NULL ORDER BY id

SELECT id FROM pick WHERE NOT (kilos > 20) ORDER BY id

SELECT id FROM pick WHERE NOT (kilos > 20 OR crew = 'Aldo') ORDER BY id

SELECT id FROM pick WHERE crew = 'Aldo' OR kilos > 40 ORDER BY id

SELECT id FROM pick WHERE crew <> 'Aldo' ORDER BY id

SELECT id FROM pick WHERE crew IN ('Aldo', 'Bree') ORDER BY id

SELECT id FROM pick WHERE crew NOT IN ('Aldo', 'Bree') ORDER BY id

SELECT id FROM pick WHERE crew NOT IN ('Aldo', NULL) ORDER BY id

SELECT id FROM pick WHERE bay IN (1, 3, 5, NULL) ORDER BY id

SELECT id FROM pick WHERE crew LIKE 'A%' ORDER BY id

SELECT id FROM pick WHERE crew LIKE '%e' ORDER BY id

SELECT id FROM pick WHERE crew LIKE '%r%' ORDER BY id

SELECT id FROM pick WHERE crew LIKE '_r__' ORDER BY id

SELECT id FROM pick WHERE crew NOT LIKE '%o%' ORDER BY id

SELECT id FROM pick WHERE kilos BETWEEN 10 AND 12.5 ORDER BY id

SELECT id FROM pick WHERE kilos NOT BETWEEN 10 AND 40 ORDER BY id

SELECT id FROM pick WHERE picked = DATE '2026-03-05' ORDER BY id

SELECT id FROM pick WHERE picked >= DATE '2026-03-20' ORDER BY id

SELECT id FROM pick WHERE picked BETWEEN DATE '2026-03-01' AND DATE '2026-03-03' ORDER BY id

SELECT id FROM pick WHERE seen_at < TIMESTAMP '2026-03-04 12:00:00' ORDER BY id

SELECT id FROM pick WHERE seen_at >= DATE '2026-03-28' ORDER BY id

SELECT id FROM pick WHERE ripe ORDER BY id

SELECT id FROM pick WHERE NOT ripe ORDER BY id

SELECT id FROM pick WHERE ripe IS TRUE ORDER BY id

SELECT id FROM pick WHERE ripe IS NOT TRUE ORDER BY id

SELECT id FROM pick WHERE ripe IS FALSE OR ripe IS NULL ORDER BY id

SELECT id FROM pick WHERE score > 0.5 AND score <= 0.75 ORDER BY id

SELECT id, kilos + 1, kilos - 0.25, kilos * 2, -kilos FROM pick ORDER BY id

SELECT id, kilos / 3, kilos / bay, bay / 4 FROM pick ORDER BY id

SELECT id, bay % 3, id % 7, -id % 7 FROM pick ORDER BY id

SELECT id, kilos * kilos, kilos * 0.125 FROM pick ORDER BY id

SELECT id, score * 2, score + bay, score / 3 FROM pick ORDER BY id

SELECT id, bay DIV 2 FROM pick ORDER BY id

SELECT id, kilos / 0, bay % 0, score / 0 FROM pick ORDER BY id

SELECT 1 + 2 * 3, (1 + 2) * 3, 10 - 4 - 3, 7 / 2, 8 / 4, 1.5 * 1.5, -(-3)

SELECT abs(-3), abs(2.5), sign(-2.5), sign(0), floor(2.7), floor(-2.7), ceil(2.1), ceiling(-2.1)

SELECT round(2.5), round(-2.5), round(2.345, 2), round(-2.345, 2), round(1234.5, -2), round(7, 2)

SELECT id, round(kilos), round(kilos, 1), floor(kilos), ceil(kilos) FROM pick ORDER BY id

SELECT id, round(score, 3), floor(score * 10), sqrt(score) FROM pick ORDER BY id

SELECT greatest(1, 5, 3), least(1.5, 0.5), greatest('b', 'a'), least(id, 3) FROM pick WHERE id < 8 ORDER BY id

SELECT id, coalesce(crew, 'nobody'), coalesce(kilos, 0), coalesce(NULL, bay, 7) FROM pick ORDER BY id

SELECT id, nullif(bay, 3), nullif(crew, 'Aldo') FROM pick ORDER BY id

SELECT id, upper(crew), lower(crew), char_length(crew), length(crew) FROM pick ORDER BY id

SELECT id, substring(crew, 2), substring(crew, 1, 3), substring(crew, -2), left(crew, 2), right(crew, 2) FROM pick ORDER BY id

SELECT id, concat(crew, '-', bay), crew || '!' FROM pick ORDER BY id

SELECT concat_ws('/', 'a', NULL, 'b'), replace('glasshouse', 's', 'z'), reverse('abc'), lpad('7', 3, '0'), rpad('ab', 4, '.')

SELECT trim('  x '), ltrim('  x '), rtrim('  x '), trim(LEADING 'x' FROM 'xxabx'), trim(BOTH 'x' FROM 'xxabx')
--= SELECT trim('  x '), ltrim('  x '), rtrim('  x '), trim(LEADING 'x' FROM 'xxabx'), trim(BOTH 'x' FROM 'xxabx')

SELECT position('ss' IN 'glasshouse'), locate('s', 'glasshouse'), instr('glasshouse', 'zz')

SELECT id, CASE WHEN kilos > 30 THEN 'heavy' WHEN kilos > 15 THEN 'middling' ELSE 'light' END FROM pick ORDER BY id

SELECT id, CASE bay WHEN 1 THEN 'one' WHEN 2 THEN 'two' END FROM pick ORDER BY id

SELECT id, CASE WHEN ripe THEN kilos ELSE 0 END FROM pick ORDER BY id

SELECT id, CASE WHEN crew IS NULL THEN NULL ELSE bay END FROM pick ORDER BY id

SELECT id, kilos > 20, crew = 'Aldo', ripe, NOT ripe, kilos IS NULL FROM pick ORDER BY id

SELECT id, (kilos > 20) AND ripe, (kilos > 20) OR ripe FROM pick ORDER BY id

SELECT id, crew <=> NULL, bay <=> 3 FROM pick ORDER BY id

SELECT id, extract(YEAR FROM picked), extract(MONTH FROM picked), extract(DAY FROM picked) FROM pick ORDER BY id

SELECT id, year(seen_at), month(seen_at), day(seen_at), hour(seen_at), minute(seen_at), quarter(seen_at) FROM pick ORDER BY id

SELECT id, date_trunc('month', picked) FROM pick ORDER BY id
--= SELECT id, CAST(DATE_FORMAT(picked, '%Y-%m-01') AS DATE) FROM pick ORDER BY id

SELECT id, date_trunc('day', seen_at), date_trunc('hour', seen_at) FROM pick ORDER BY id
--= SELECT id, CAST(DATE_FORMAT(seen_at, '%Y-%m-%d 00:00:00') AS DATETIME), CAST(DATE_FORMAT(seen_at, '%Y-%m-%d %H:00:00') AS DATETIME) FROM pick ORDER BY id

SELECT id, date_trunc('week', picked) FROM pick ORDER BY id
--= SELECT id, picked - INTERVAL WEEKDAY(picked) DAY FROM pick ORDER BY id

SELECT id, week(picked) FROM pick ORDER BY id
--= SELECT id, WEEK(picked, 3) FROM pick ORDER BY id

SELECT id, picked + INTERVAL 1 DAY, picked - INTERVAL 1 MONTH, picked + INTERVAL 1 YEAR FROM pick ORDER BY id

SELECT id, seen_at + INTERVAL 90 MINUTE, seen_at - INTERVAL 1 DAY FROM pick ORDER BY id

SELECT id, datediff(picked, DATE '2026-01-01') FROM pick ORDER BY id

SELECT id, CAST(seen_at AS date), date(seen_at) FROM pick ORDER BY id

SELECT id, CAST(kilos AS bigint), CAST(bay AS decimal(10, 2)), CAST(kilos AS double) FROM pick ORDER BY id
--= SELECT id, CAST(kilos AS SIGNED), CAST(bay AS DECIMAL(10, 2)), CAST(kilos AS DOUBLE) FROM pick ORDER BY id

SELECT CAST('12.345' AS decimal(10, 2)), CAST('42' AS bigint), CAST(7 AS text), CAST(DATE '2026-03-01' AS text)
--= SELECT CAST('12.345' AS DECIMAL(10, 2)), CAST('42' AS SIGNED), CAST(7 AS CHAR), CAST(DATE '2026-03-01' AS CHAR)

SELECT count(*) FROM pick

SELECT count(*), count(kilos), count(crew), count(DISTINCT crew), count(DISTINCT bay) FROM pick

SELECT sum(kilos), avg(kilos), min(kilos), max(kilos) FROM pick

SELECT sum(bay), avg(bay), min(bay), max(bay), sum(score), avg(score) FROM pick

SELECT min(crew), max(crew), min(picked), max(picked), min(seen_at), max(seen_at) FROM pick

SELECT count(*), sum(kilos), avg(kilos), min(kilos) FROM pick WHERE id < 0

SELECT count(*), count(note), sum(amount), max(note) FROM empty_log

SELECT crew, count(*) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, count(*), sum(kilos), avg(kilos), min(picked), max(score) FROM pick GROUP BY crew ORDER BY crew

SELECT bay, crew, count(*), sum(kilos) FROM pick GROUP BY bay, crew ORDER BY bay, crew

SELECT ripe, count(*), avg(score) FROM pick GROUP BY ripe ORDER BY ripe

SELECT picked, count(*) FROM pick GROUP BY picked ORDER BY picked

SELECT bay % 3 AS third, sum(kilos) FROM pick GROUP BY bay % 3 ORDER BY third

SELECT upper(crew) AS name, count(*) FROM pick GROUP BY name ORDER BY name

SELECT crew, count(DISTINCT bay), count(DISTINCT picked) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, sum(DISTINCT bay), avg(DISTINCT bay) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, count(*) FROM pick GROUP BY crew HAVING count(*) > 40 ORDER BY crew

SELECT crew, sum(kilos) FROM pick GROUP BY crew HAVING sum(kilos) > 500 AND crew IS NOT NULL ORDER BY crew

SELECT crew, sum(kilos) / count(*) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, sum(CASE WHEN ripe THEN 1 ELSE 0 END) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, sum(kilos) FILTER (WHERE ripe), count(*) FILTER (WHERE bay > 3) FROM pick GROUP BY crew ORDER BY crew
--= SELECT crew, sum(CASE WHEN ripe THEN kilos END), count(CASE WHEN bay > 3 THEN 1 END) FROM pick GROUP BY crew ORDER BY crew

SELECT 1, count(*) FROM pick GROUP BY bay ORDER BY 2, bay

SELECT date_trunc('month', seen_at) AS m, count(*) FROM pick GROUP BY 1 ORDER BY 1
--= SELECT CAST(DATE_FORMAT(seen_at, '%Y-%m-01') AS DATETIME) AS m, count(*) FROM pick GROUP BY 1 ORDER BY 1

SELECT sum(kilos) FROM pick HAVING count(*) > 1000

SELECT max(total) FROM (SELECT crew, sum(kilos) AS total FROM pick GROUP BY crew) t

SELECT DISTINCT crew FROM pick ORDER BY crew

SELECT DISTINCT bay, ripe FROM pick ORDER BY bay, ripe

SELECT DISTINCT bay % 2 FROM pick ORDER BY 1

SELECT id FROM pick ORDER BY kilos, id LIMIT 10

SELECT id FROM pick ORDER BY kilos DESC, id LIMIT 10

SELECT id FROM pick ORDER BY crew DESC, kilos, id LIMIT 15 OFFSET 5

SELECT id, crew FROM pick ORDER BY crew NULLS LAST, id LIMIT 20
--= SELECT id, crew FROM pick ORDER BY crew IS NULL, crew, id LIMIT 20

SELECT id FROM pick ORDER BY kilos * -1, id DESC LIMIT 5

SELECT id FROM pick ORDER BY id LIMIT 0

SELECT id FROM pick ORDER BY id LIMIT 5 OFFSET 1000

SELECT id FROM pick ORDER BY id DESC LIMIT 3

SELECT p.id, v.name FROM pick p JOIN variety v ON v.id = p.variety ORDER BY p.id

SELECT p.id, v.name FROM pick p LEFT JOIN variety v ON v.id = p.variety ORDER BY p.id

SELECT v.id, p.id FROM pick p RIGHT JOIN variety v ON v.id = p.variety ORDER BY v.id, p.id

SELECT v.name, p.id FROM variety v LEFT JOIN pick p ON p.variety = v.id AND p.kilos > 45 ORDER BY v.name, p.id

SELECT v.id, b.id FROM variety v FULL JOIN bay b ON b.id = v.id ORDER BY 1, 2
--= SELECT v.id, b.id FROM variety v LEFT JOIN bay b ON b.id = v.id UNION ALL SELECT NULL, b.id FROM bay b WHERE NOT EXISTS (SELECT 1 FROM variety v WHERE v.id = b.id) ORDER BY 1, 2

SELECT v.id, b.id FROM variety v CROSS JOIN bay b ORDER BY v.id, b.id

SELECT v.id, b.id FROM variety v, bay b WHERE v.id < b.id AND b.id < 6 ORDER BY v.id, b.id

SELECT p.id, v.name, b.house FROM pick p JOIN variety v ON v.id = p.variety JOIN bay b ON b.id = p.bay ORDER BY p.id

SELECT b.house, v.family, count(*), sum(p.kilos) FROM pick p JOIN variety v ON v.id = p.variety JOIN bay b ON b.id = p.bay GROUP BY b.house, v.family ORDER BY b.house, v.family

SELECT b.house, sum(p.kilos * v.price) FROM pick p JOIN variety v ON v.id = p.variety JOIN bay b ON b.id = p.bay WHERE v.family = 'herb' GROUP BY b.house ORDER BY b.house

SELECT c.week, count(*) FROM pick p JOIN calendar c ON c.day = p.picked WHERE c.season = 'spring' GROUP BY c.week ORDER BY c.week

SELECT c.season, count(p.id) FROM calendar c LEFT JOIN pick p ON p.picked = c.day GROUP BY c.season ORDER BY c.season

SELECT p.id FROM pick p LEFT JOIN variety v ON v.id = p.variety WHERE v.id IS NULL ORDER BY p.id

SELECT p.id FROM pick p LEFT JOIN variety v ON v.id = p.variety WHERE v.family = 'herb' ORDER BY p.id

SELECT p.id FROM pick p LEFT JOIN variety v ON v.id = p.variety AND v.family = 'herb' ORDER BY p.id

SELECT p.id, q.id FROM pick p JOIN pick q ON q.bay = p.bay AND q.crew = p.crew AND q.id > p.id WHERE p.id < 60 ORDER BY p.id, q.id

SELECT a.id, b.id FROM bay a JOIN bay b ON a.house = b.house AND a.area < b.area ORDER BY a.id, b.id

SELECT id, house, kilos FROM pick JOIN (SELECT id AS bay, house FROM bay) b USING (bay) ORDER BY id

SELECT p.id FROM pick p JOIN empty_log e ON e.id = p.id ORDER BY p.id

SELECT p.id, e.note FROM pick p LEFT JOIN empty_log e ON e.id = p.id WHERE p.id < 10 ORDER BY p.id

SELECT p.id, v.name FROM pick p LEFT JOIN (variety v JOIN bay b ON b.id = v.id) ON v.id = p.variety ORDER BY p.id

SELECT p.id FROM pick p JOIN variety v ON v.id = p.variety AND v.price > p.kilos / 10 ORDER BY p.id

SELECT count(*) FROM pick p, variety v WHERE p.variety = v.id AND p.kilos > v.price

SELECT id FROM pick WHERE variety IN (SELECT id FROM variety WHERE family = 'herb') ORDER BY id

SELECT id FROM pick WHERE variety NOT IN (SELECT id FROM variety WHERE family = 'herb') ORDER BY id

SELECT id FROM pick WHERE variety NOT IN (SELECT variety FROM pick WHERE bay = 1) ORDER BY id

SELECT id FROM variety WHERE id NOT IN (SELECT variety FROM pick WHERE variety IS NOT NULL) ORDER BY id

SELECT id FROM variety v WHERE EXISTS (SELECT 1 FROM pick p WHERE p.variety = v.id AND p.kilos > 45) ORDER BY id

SELECT id FROM variety v WHERE NOT EXISTS (SELECT 1 FROM pick p WHERE p.variety = v.id AND p.kilos > 45) ORDER BY id

SELECT id FROM bay b WHERE EXISTS (SELECT * FROM pick p JOIN variety v ON v.id = p.variety WHERE p.bay = b.id AND v.family = 'flower') ORDER BY id

SELECT id FROM pick p WHERE kilos > (SELECT avg(kilos) FROM pick) ORDER BY id

SELECT id FROM pick p WHERE kilos > (SELECT avg(q.kilos) FROM pick q WHERE q.crew = p.crew) ORDER BY id

SELECT id, (SELECT name FROM variety v WHERE v.id = p.variety) FROM pick p ORDER BY id

SELECT id, (SELECT count(*) FROM pick p WHERE p.variety = v.id) FROM variety v ORDER BY id

SELECT id, (SELECT max(kilos) FROM pick p WHERE p.bay = b.id AND p.crew = 'Aldo') FROM bay b ORDER BY id

SELECT id FROM pick WHERE kilos >= ALL (SELECT kilos FROM pick WHERE kilos IS NOT NULL) ORDER BY id

SELECT id FROM pick WHERE kilos = ANY (SELECT price FROM variety) ORDER BY id

SELECT id FROM variety WHERE price > ANY (SELECT price FROM variety WHERE family = 'herb') ORDER BY id

SELECT id FROM bay WHERE id > ALL (SELECT id FROM empty_log) ORDER BY id

SELECT id FROM pick WHERE (bay, crew) IN ((1, 'Aldo'), (2, 'Bree')) ORDER BY id

SELECT id FROM pick WHERE bay = 1 OR EXISTS (SELECT 1 FROM variety v WHERE v.id = pick.variety AND v.price > 4) ORDER BY id

SELECT crew, (SELECT count(*) FROM variety) FROM pick GROUP BY crew ORDER BY crew

SELECT crew, sum(kilos) FROM pick GROUP BY crew HAVING sum(kilos) > (SELECT avg(kilos) * 50 FROM pick) ORDER BY crew

SELECT t.crew, t.n FROM (SELECT crew, count(*) AS n FROM pick GROUP BY crew) t WHERE t.n > 30 ORDER BY t.crew

SELECT t.bay, t.kg FROM (SELECT bay, sum(kilos) AS kg FROM pick WHERE ripe GROUP BY bay) t WHERE t.bay > 3 AND t.kg IS NOT NULL ORDER BY t.bay

WITH heavy AS (SELECT * FROM pick WHERE kilos > 30) SELECT crew, count(*) FROM heavy GROUP BY crew ORDER BY crew

WITH a AS (SELECT bay, sum(kilos) AS kg FROM pick GROUP BY bay), b AS (SELECT avg(kg) AS mean FROM a) SELECT a.bay FROM a, b WHERE a.kg > b.mean ORDER BY a.bay

WITH a (x, y) AS (SELECT bay, count(*) FROM pick GROUP BY bay) SELECT x FROM a WHERE y > 30 ORDER BY x

WITH t AS (SELECT 1 AS n) SELECT p.id FROM pick p, t WHERE p.bay = t.n ORDER BY p.id

SELECT id FROM bay UNION SELECT id FROM variety ORDER BY 1

SELECT id FROM bay UNION ALL SELECT id FROM variety ORDER BY 1

SELECT bay FROM pick INTERSECT SELECT id FROM bay ORDER BY 1

SELECT id FROM bay EXCEPT SELECT bay FROM pick ORDER BY 1

SELECT crew FROM pick UNION SELECT name FROM variety ORDER BY 1

SELECT crew, bay FROM pick EXCEPT SELECT crew, bay FROM pick WHERE kilos > 25 ORDER BY 1, 2

SELECT id FROM bay UNION SELECT id FROM variety EXCEPT SELECT 3 ORDER BY 1

SELECT x FROM (SELECT id AS x FROM bay UNION ALL SELECT variety FROM pick) t WHERE x > 10 ORDER BY x

SELECT bay, NULL AS crew FROM pick WHERE id < 4 UNION ALL SELECT bay, crew FROM pick WHERE id > 395 ORDER BY 1, 2

SELECT 1 AS n, 'a' AS t UNION ALL SELECT 2.5, 'b' ORDER BY n

(SELECT id FROM pick ORDER BY kilos DESC, id LIMIT 3) UNION ALL (SELECT id FROM pick ORDER BY kilos, id LIMIT 3) ORDER BY 1

SELECT id, row_number() OVER (ORDER BY kilos DESC, id) FROM pick ORDER BY id

SELECT id, rank() OVER (ORDER BY crew), dense_rank() OVER (ORDER BY crew) FROM pick ORDER BY id

SELECT id, row_number() OVER (PARTITION BY crew ORDER BY picked, id) FROM pick ORDER BY id

SELECT id, rank() OVER (PARTITION BY bay ORDER BY kilos DESC) FROM pick ORDER BY id

SELECT id, sum(kilos) OVER (PARTITION BY crew) FROM pick ORDER BY id

SELECT id, sum(kilos) OVER (PARTITION BY crew ORDER BY id) FROM pick ORDER BY id

SELECT id, sum(bay) OVER (ORDER BY picked) FROM pick ORDER BY id

SELECT id, sum(bay) OVER (ORDER BY picked, id ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW) FROM pick ORDER BY id

SELECT id, avg(kilos) OVER (PARTITION BY bay), count(*) OVER (), min(kilos) OVER (PARTITION BY bay), max(kilos) OVER (PARTITION BY bay) FROM pick ORDER BY id

SELECT id, lag(kilos) OVER (ORDER BY id), lead(kilos) OVER (ORDER BY id) FROM pick ORDER BY id

SELECT id, lag(id, 2) OVER (PARTITION BY crew ORDER BY id), lead(id, 3) OVER (PARTITION BY crew ORDER BY id) FROM pick ORDER BY id

SELECT crew, sum(kilos), rank() OVER (ORDER BY sum(kilos) DESC) FROM pick GROUP BY crew ORDER BY crew

SELECT * FROM (SELECT id, row_number() OVER (PARTITION BY bay ORDER BY kilos DESC, id) AS n FROM pick) t WHERE n <= 2 ORDER BY id

SELECT * FROM (SELECT id, bay, row_number() OVER (PARTITION BY bay ORDER BY id) AS n FROM pick) t WHERE bay = 3 ORDER BY id

SELECT id FROM pick WHERE picked >= DATE '2026-03-01' AND picked < DATE '2026-03-01' + INTERVAL 7 DAY ORDER BY id

SELECT p.bay, c.week, sum(p.kilos) FROM pick p JOIN calendar c ON c.day = CAST(p.seen_at AS date) WHERE c.week = 10 GROUP BY p.bay, c.week ORDER BY p.bay

SELECT id FROM pick WHERE 1 = 1 AND id = 5

SELECT id FROM pick WHERE 1 = 0

SELECT count(*) FROM pick WHERE NULL

SELECT id FROM pick WHERE crew = 'Zo''e' OR crew = 'Émile' ORDER BY id

SELECT b.house, count(DISTINCT p.crew) FROM bay b LEFT JOIN pick p ON p.bay = b.id GROUP BY b.house ORDER BY b.house

SELECT p.crew, count(*) FROM pick p WHERE p.bay IN (SELECT b.id FROM bay b WHERE b.area > (SELECT avg(area) FROM bay)) GROUP BY p.crew ORDER BY p.crew

SELECT a.crew, a.kg, b.kg FROM (SELECT crew, sum(kilos) AS kg FROM pick WHERE ripe GROUP BY crew) a LEFT JOIN (SELECT crew, sum(kilos) AS kg FROM pick WHERE NOT ripe GROUP BY crew) b ON b.crew = a.crew ORDER BY a.crew

SELECT v.family, count(*) FROM variety v WHERE v.id IN (SELECT variety FROM pick GROUP BY variety HAVING count(*) > 15) GROUP BY v.family ORDER BY v.family

SELECT DISTINCT v.family FROM variety v JOIN pick p ON p.variety = v.id WHERE p.kilos > 45 ORDER BY v.family

SELECT sum(x) FROM (SELECT kilos AS x FROM pick UNION ALL SELECT price FROM variety) t

SELECT p.id FROM pick p JOIN bay b ON b.id = p.bay LEFT JOIN variety v ON v.id = p.variety WHERE b.house = 'north' AND coalesce(v.family, 'none') <> 'herb' ORDER BY p.id

SELECT x.id FROM (SELECT id, kilos FROM pick WHERE bay = 2) x JOIN (SELECT id, kilos FROM pick WHERE ripe) y ON x.id = y.id ORDER BY x.id

SELECT a.id, d.week FROM bay a JOIN pick p ON p.bay = a.id JOIN variety v ON v.id = p.variety JOIN calendar d ON d.day = p.picked JOIN bay b2 ON b2.id = a.id WHERE v.family = 'pepper' AND d.week < 8 ORDER BY a.id, d.week, p.id
