<?php

declare(strict_types=1);

namespace App\Limits\Application;

use App\Platform\Support\Money;
use App\Telemetry\Usage\Amount;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Text\Quantity;
use stdClass;

/**
 * A limit as it is kept, with who is told and who is to be asked.
 */
final readonly class KeptLimit
{
    public function __construct(
        public int $id,
        public Limit $limit,
        public string $currency,
        public LimitState $state,
        public int $liftedUntilUs,
        public ?string $recipient,
        public ?int $watcherId,
        public string $ask,
        public string $madeBy,
        public int $madeUs,
    ) {
    }

    public static function read(stdClass $row): self
    {
        return new self(
            (int) $row->id,
            new Limit(
                LimitMeasure::from($row->measure),
                ScopeKind::from($row->kind),
                (string) $row->name,
                LimitPeriod::from($row->period),
                (int) $row->amount,
                self::thresholds((string) $row->thresholds),
            ),
            (string) $row->currency,
            LimitState::from($row->state),
            (int) $row->lifted_until_us,
            $row->recipient,
            $row->watcher_id === null ? null : (int) $row->watcher_id,
            (string) $row->ask,
            (string) $row->made_by,
            (int) $row->made_us,
        );
    }

    /**
     * @return list<Threshold>
     */
    private static function thresholds(string $json): array
    {
        $thresholds = [];
        foreach ((array) json_decode($json, true) as $percent => $act) {
            $thresholds[] = new Threshold((int) $percent, Act::from((string) $act));
        }

        return $thresholds;
    }

    public function isLifted(int $nowUs): bool
    {
        return $this->liftedUntilUs > $nowUs;
    }

    /** "team forecast_lab, 2.0 TiB scanned a week". */
    public function title(): string
    {
        $of = $this->limit->period === LimitPeriod::Statement ? 'by a single statement' : "a {$this->limit->period->value}";

        return "{$this->whose()}, {$this->whole()} {$of}";
    }

    /** Its amount, said with what it is of. */
    public function whole(): string
    {
        return match ($this->limit->measure) {
            LimitMeasure::Bytes => "{$this->typed()} scanned",
            LimitMeasure::Time => "{$this->typed()} in flight",
            LimitMeasure::Executions => Quantity::count($this->limit->amount).($this->limit->amount === 1 ? ' execution' : ' executions'),
            LimitMeasure::Cost => $this->amount($this->limit->amount),
        };
    }

    /** Its amount as it is typed into a form, exact. */
    public function typed(): string
    {
        $amount = $this->limit->amount;

        return match ($this->limit->measure) {
            LimitMeasure::Executions => (string) $amount,
            LimitMeasure::Cost => rtrim(rtrim(sprintf('%.2F', $amount / LimitMeasure::MONEY), '0'), '.'),
            LimitMeasure::Time => self::inUnits($amount, [
                'h' => 3_600_000_000, 'min' => 60_000_000, 's' => 1_000_000, 'ms' => 1_000, 'us' => 1,
            ]),
            LimitMeasure::Bytes => self::inUnits($amount, [
                'TiB' => 1024 ** 4, 'TB' => 10 ** 12, 'GiB' => 1024 ** 3, 'GB' => 10 ** 9, 'MiB' => 1024 ** 2, 'MB' => 10 ** 6,
                'KiB' => 1024, 'kB' => 1000, 'B' => 1,
            ]),
        };
    }

    /**
     * @param  non-empty-array<string, int>  $units the last of them 1
     */
    private static function inUnits(int $amount, array $units): string
    {
        foreach ($units as $unit => $size) {
            // Half and quarter units are typed as well.
            if ($amount >= $size && $amount * 100 % $size === 0) {
                return rtrim(rtrim(sprintf('%.2F', $amount / $size), '0'), '.')." {$unit}";
            }
        }

        return (string) $amount;
    }

    public function whose(): string
    {
        return "{$this->limit->kind->value} {$this->limit->name}";
    }

    /** An amount of its measure in words. */
    public function amount(int|float $amount): string
    {
        return $this->limit->measure === LimitMeasure::Cost ? Money::plain($amount / LimitMeasure::MONEY, $this->currency)
            : Amount::of($this->limit->measure->usage(), $amount);
    }
}
