<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Days;
use Illuminate\Http\Request;

/**
 * The rest of a month with something changed: data that grow, or a statement that runs more often, as a dashboard that is new.
 */
final readonly class ForecastIf
{
    private const MOST_PERCENT = 1_000;

    private const MINUTES_A_DAY = 1_440;

    /** Days an execution's mean is read from. */
    private const DAYS = 28;

    private function __construct(
        /** Percent the days that are left have more; below zero less. */
        public float $grows,
        /** Fingerprint of a statement that runs as well; empty for none. */
        public string $statement,
        /** Minutes between its executions. */
        public int $everyMinutes,
        public ?string $complaint,
        /** What one execution of it has on the mean; null where it did not run in the last weeks. */
        public ?float $each,
    ) {
    }

    public static function of(Request $request, UsageScope $scope, UsageReader $reader, int $today): self
    {
        $said = static function (string $name) use ($request): string {
            $value = $request->query($name);

            return is_string($value) ? trim($value) : '';
        };
        $complaint = null;
        $grows = rtrim($said('grows'), ' %');
        if ($grows !== '' && (! is_numeric($grows) || abs((float) $grows) > self::MOST_PERCENT || (float) $grows < -100)) {
            $complaint = 'Growth is a percentage from -100 to '.self::MOST_PERCENT.', as 20.';
            $grows = '';
        }
        $every = $said('every') === '' ? '5' : $said('every');
        if (! ctype_digit($every) || (int) $every < 1 || (int) $every > self::MINUTES_A_DAY) {
            $complaint ??= 'How often it runs is a number of minutes from 1 to '.self::MINUTES_A_DAY.', as 5.';
            $every = '5';
        }
        $statement = preg_match('~^[0-9a-f]{32}$~D', $said('also')) === 1 ? $said('also') : '';
        if ($statement === '' && $said('also') !== '') {
            $complaint ??= 'A statement is named by the 32 characters of its address.';
        }
        $each = $statement === '' ? null : self::each($statement, $scope, $reader, $today);
        if ($statement !== '' && $each === null) {
            $complaint ??= 'That statement did not run in the last four weeks, so nothing is known of what an execution has.';
        }

        return new self((float) $grows, $statement, (int) $every, $complaint, $each);
    }

    private static function each(string $statement, UsageScope $scope, UsageReader $reader, int $today): ?float
    {
        $days = new Days($today - self::DAYS * Days::DAY, $today);
        // Whoever ran it before.
        $all = UsageScope::within($days, $scope->measure, $scope->cluster, [], $scope->teams);
        $used = $reader->ofStatements([$statement], $all, $days)[$statement] ?? null;

        return $used === null || $used->executions < 1 ? null : $used->amount / $used->executions;
    }

    public function isAsked(): bool
    {
        return $this->grows !== 0.0 || $this->each !== null;
    }

    /** What the whole month would have. */
    public function expected(PeriodForecast $forecast): float
    {
        $left = $forecast->forecast->total($forecast->ahead) * (1 + $this->grows / 100);
        $runs = $this->each === null ? 0.0 : $forecast->ahead * self::MINUTES_A_DAY / $this->everyMinutes;

        return $forecast->used() + $left + $runs * ($this->each ?? 0.0);
    }

    /** In words, after "if". */
    public function said(): string
    {
        $parts = [];
        if ($this->grows !== 0.0) {
            $parts[] = 'the days that are left have '.Quantity::digits(abs($this->grows)).'% '.
                ($this->grows > 0 ? 'more' : 'less');
        }
        if ($this->each !== null) {
            $parts[] = 'statement '.substr($this->statement, 0, 8).' runs every '.($this->everyMinutes === 1 ? 'minute'
                : "{$this->everyMinutes} minutes").' as well';
        }

        return implode(' and ', $parts);
    }
}
