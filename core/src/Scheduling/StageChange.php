<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * A stage in two runs of the same job.
 */
final readonly class StageChange
{
    /**
     * @param  array{tasks: int, workUs: int, bytesRead: int, wallUs: int}|null  $before
     * @param  array{tasks: int, workUs: int, bytesRead: int, wallUs: int}|null  $after
     */
    public function __construct(public string $stage, public ?array $before, public ?array $after)
    {
    }

    /**
     * Stage by stage, by name; what takes most more first.
     *
     * @param  list<Stage>  $stagesBefore
     * @param  list<Stage>  $stagesAfter
     * @return list<self>
     */
    public static function between(RunFacts $before, array $stagesBefore, RunFacts $after, array $stagesAfter): array
    {
        $side = static function (RunFacts $facts, array $stages): array {
            /** @var list<Stage> $stages */
            $sums = [];
            foreach ($facts->stages as $sum) {
                $sums[$stages[$sum['stage']]->id] = [
                    'tasks' => $sum['tasks'],
                    'workUs' => $sum['workUs'],
                    'bytesRead' => $sum['bytesRead'],
                    'wallUs' => $sum['lastUs'] - $sum['firstUs'],
                ];
            }

            return $sums;
        };
        $names = [];
        foreach ([...$stagesBefore, ...$stagesAfter] as $stage) {
            $names[$stage->id] = $stage->name;
        }
        [$one, $other] = [$side($before, $stagesBefore), $side($after, $stagesAfter)];
        $changes = [];
        foreach ($names as $id => $name) {
            $changes[] = new self($name, $one[$id] ?? null, $other[$id] ?? null);
        }
        usort($changes, static fn (self $a, self $b): int => $b->moreUs() <=> $a->moreUs());

        return $changes;
    }

    /** Worker time it takes more. */
    public function moreUs(): int
    {
        return ($this->after['workUs'] ?? 0) - ($this->before['workUs'] ?? 0);
    }

    /** How its time for a byte changed, as a factor; null where it read nothing. */
    public function perByte(): ?float
    {
        if (
            $this->before === null ||
            $this->after === null ||
            $this->before['bytesRead'] <= 0 ||
            $this->after['bytesRead'] <= 0 ||
            $this->before['workUs'] <= 0
        ) {
            return null;
        }

        return $this->after['workUs'] / $this->after['bytesRead'] / ($this->before['workUs'] / $this->before['bytesRead']);
    }
}
