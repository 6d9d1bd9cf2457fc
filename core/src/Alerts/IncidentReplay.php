<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * Incidents that rings would have been, and what would have been said of them.
 */
final readonly class IncidentReplay
{
    /**
     * @param  array<string, list<AlertRing>>  $rings of one cluster, by alert
     * @return list<array{IncidentCourse, int}> each with how many words were said while it went on, the first one among them
     */
    public static function of(array $rings): array
    {
        $courses = $words = [];
        foreach (self::events($rings) as [$at, $isEnd, $alert, $host, $from]) {
            $place = null;
            foreach ($courses as $i => $course) {
                if ($isEnd ? isset($course->ringing["{$alert}\0{$host}"]) : $course->takes($alert, $from, $at)) {
                    $place = $i;
                }
            }
            if ($isEnd) {
                if ($place !== null) {
                    $courses[$place] = $courses[$place]->ended($alert, $host, $at);
                }

                continue;
            }
            if ($place === null) {
                $courses[] = IncidentCourse::opened($alert, $host, $from, $at);
                $words[] = 1;

                continue;
            }
            $course = $courses[$place]->rang($alert, $host, $from);
            // What rings in the same step is told together.
            $isTogether = $at === $course->toldAt;
            $isWord = ! $isTogether && $course->isGrown($at);
            $courses[$place] = $isTogether || $isWord ? $course->told($at) : $course;
            $words[$place] += $isWord ? 1 : 0;
        }

        $told = [];
        foreach ($courses as $place => $course) {
            $told[] = [$course, $words[$place]];
        }

        return $told;
    }

    /**
     * @param  array<string, list<AlertRing>>  $rings
     * @return list<array{int, bool, string, string, int}> second, whether it is an end, alert, host, and when it had begun, in the order
     *     of time
     */
    private static function events(array $rings): array
    {
        $events = [];
        foreach ($rings as $alert => $list) {
            foreach ($list as $ring) {
                $events[] = [$ring->rangAt, false, $alert, $ring->host, $ring->from];
                if ($ring->to !== null) {
                    $events[] = [max($ring->rangAt, $ring->to), true, $alert, $ring->host, $ring->from];
                }
            }
        }
        sort($events);

        return $events;
    }
}
