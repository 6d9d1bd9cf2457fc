<?php

declare(strict_types=1);

namespace App\Usage\Console;

use App\Platform\Support\Clock;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageParquet;
use App\Usage\Application\UsageQuery;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Illuminate\Console\Command;
use InvalidArgumentException;

final class ExportUsageCommand extends Command
{
    protected $signature = 'usage:export
        {folder : where files are written, one folder a day: day=2026-11-20/usage.parquet}
        {--from= : first day, as 2026-11-20}
        {--to= : last day}
        {--by=cluster,team,application,person,queue,database,statement : fields, with commas}';

    protected $description = 'Writes usage facts as Parquet files, a folder a day';

    private const ROWS = 50_000;

    public function handle(Calendar $calendar): int
    {
        try {
            $days = Days::parse(trim("{$this->option('from')} to {$this->option('to')}"), $calendar->shown(Clock::seconds()));
            $by = self::by((string) $this->option('by'));
        } catch (InvalidArgumentException $error) {
            $this->error($error->getMessage());

            return self::INVALID;
        }
        $folder = rtrim((string) $this->argument('folder'), '/');
        if (! is_dir($folder) || ! is_writable($folder)) {
            $this->error("{$folder} is no folder that can be written to. Make it first.");

            return self::INVALID;
        }
        $total = 0;
        foreach ($days->starts() as $start) {
            $rows = $this->day($folder, new Days($start, $start + Days::DAY), $by);
            $total += $rows;
            if ($this->output->isVerbose()) {
                $this->line(gmdate('Y-m-d', $start).": {$rows} rows");
            }
        }
        $this->line("{$total} rows of {$days->count()} days are in {$folder}.");

        return self::SUCCESS;
    }

    /**
     * @param  non-empty-list<UsageAxis>  $by
     */
    private function day(string $folder, Days $day, array $by): int
    {
        $query = new UsageQuery($day, $by, null);
        $count = $query->count();
        if ($count === 0) {
            return 0;
        }
        $path = "{$folder}/day=".$day->text();
        if (! is_dir($path)) {
            mkdir($path, 0o755);
        }
        // Whole or not at all: whoever reads the folder meanwhile finds the file of before.
        $file = UsageParquet::of(self::rows($query), mayBeNull: false);
        file_put_contents("{$path}/.usage.part", $file);
        rename("{$path}/.usage.part", "{$path}/usage.parquet");

        return $count;
    }

    /**
     * @return iterable<array<string, int|string>>
     */
    private static function rows(UsageQuery $query): iterable
    {
        for ($at = 0; ($rows = $query->rows($at, self::ROWS)) !== []; $at += self::ROWS) {
            yield from $rows;
        }
    }

    /**
     * @return non-empty-list<UsageAxis>
     *
     * @throws InvalidArgumentException
     */
    private static function by(string $text): array
    {
        $by = [];
        foreach (explode(',', $text) as $name) {
            $field = UsageField::tryFrom(trim($name) === 'cluster' ? UsageField::Cluster->value : trim($name));
            $by[] = ($field === null ? null : UsageAxis::of($field->value)) ?? throw new InvalidArgumentException(
                "--by names fields with commas: cluster, team, application, person, queue, database, statement; \"{$name}\" is none.",
            );
        }

        return $by;
    }
}
