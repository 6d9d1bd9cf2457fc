<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Backup\Application\FolderCheck;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupKind;
use Fulcrion\Core\Backup\ChecksumList;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\File;

/**
 * Backups of the demo world. Those of two schemas lie here and are really checked; one of them, of day 20, has a flipped byte. The plan of
 * energy names a table that was renamed, so that it has failed for nine days. Sizes are those of the files, on the modelled scale.
 */
final readonly class DemoBackups
{
    public const FAILS_FOR_DAYS = 9;

    /** Days before today whose backup of trade has a flipped byte: day 20 of 28. */
    public const FLIPPED_DAYS = 8;

    public const FAILING = 'energy';

    public const FLIPPED = 'trade';

    /** Whole on Sundays only. */
    private const BY_WEEK = 'field';

    /** Longer than the history of statements, so that as many are removed as come. */
    private const DAYS = 45;

    /** What each week brought, as a part of what there is today. */
    private const GROWTH = 0.025;

    private const KEPT_DAYS = 14;

    /** Whose files lie here, for so many days. */
    private const HERE = ['trade', 'ref'];

    private const HERE_DAYS = 10;

    private const FAILURE = 'Table energy.tariff_2025 does not exist.';

    /** What an incremental one holds of all. */
    private const CHANGED = 0.03;

    private const DAY_US = 86_400_000_000;

    private const STARTS_US = 5_400_000_000;

    /** Written and read by the second on the modelled cluster. */
    private const BYTES_PER_SECOND = 150_000_000;

    public function __construct(private BackupBook $book, private BackupFindings $findings)
    {
    }

    public function write(int $now): void
    {
        foreach (['fernhill' => true, 'wren' => false] as $slug => $isProduction) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster === null || $this->book->knows($cluster)) {
                continue;
            }
            $warehouse = Warehouse::open(PracticeClusters::root($slug));
            $this->book->keep($cluster, $isProduction ? self::production($warehouse, $now) : self::rehearsal($warehouse, $now));
            $this->check($cluster, $now);
            $this->findings->report($cluster, $now * 1_000_000);
        }
    }

    /**
     * @return list<Backup>
     */
    private static function production(Warehouse $warehouse, int $now): array
    {
        $backups = [];
        foreach ($warehouse->schemas() as $number => $schema) {
            $files = self::files($warehouse, $schema);
            $bytes = array_sum(array_map(filesize(...), $files)) * $warehouse->profile->rowFactor;
            foreach (self::nights($now, $number) as $days => $startUs) {
                $isWhole = $schema !== self::BY_WEEK || gmdate('N', intdiv($startUs, 1_000_000)) === '7' || $days === self::DAYS - 1;
                $place = in_array($schema, self::HERE, true) && $days < self::HERE_DAYS
                    ? self::copy($schema, $files, $startUs, $schema === self::FLIPPED && $days === self::FLIPPED_DAYS) : null;
                $backups[] = self::one($schema, [$schema], $isWhole ? BackupKind::Full : BackupKind::Incremental, $startUs,
                    $bytes * self::share($days) * ($isWhole ? 1.0 : self::CHANGED),
                    $place ?? "vault:/fernhill/{$schema}/".gmdate('Y-m-d', intdiv($startUs, 1_000_000)),
                    $schema === self::FAILING && $days < self::FAILS_FOR_DAYS ? self::FAILURE : null, $now);
            }
        }

        return $backups;
    }

    /**
     * @return list<Backup>
     */
    private static function rehearsal(Warehouse $warehouse, int $now): array
    {
        $schemas = $warehouse->schemas();
        $bytes = 0;
        foreach ($schemas as $schema) {
            $bytes += array_sum(array_map(filesize(...), self::files($warehouse, $schema))) * $warehouse->profile->rowFactor;
        }

        return $schemas === [] ? [] : array_map(
            static fn (int $startUs): Backup => self::one('all', $schemas, BackupKind::Full, $startUs, $bytes,
                'vault:/wren/'.gmdate('Y-m-d', intdiv($startUs, 1_000_000)), null, $now),
            array_values(self::nights($now, 0)),
        );
    }

    /** Of what there is today. */
    private static function share(int $days): float
    {
        return 1.0 - self::GROWTH * intdiv($days, 7);
    }

    /**
     * @return array<int, int> starts in microseconds, by how many days ago
     */
    private static function nights(int $now, int $number): array
    {
        $nights = [];
        for ($days = self::DAYS - 1; $days >= 0; $days--) {
            $startUs = ($now - $now % 86_400) * 1_000_000 - $days * self::DAY_US + self::STARTS_US + $number * 900_000_000;
            if ($startUs + 3 * 3_600_000_000 < $now * 1_000_000) {
                $nights[$days] = $startUs;
            }
        }

        return $nights;
    }

    /**
     * @param  non-empty-list<string>  $schemas
     */
    private static function one(
        string $plan,
        array $schemas,
        BackupKind $kind,
        int $startUs,
        float $bytes,
        string $place,
        ?string $failure,
        int $now,
    ): Backup {
        $endUs = $startUs + ($failure === null ? 30_000_000 + (int) ($bytes / self::BYTES_PER_SECOND * 1e6) : 2_000_000);
        // A week of incremental ones goes together with the one they build on.
        $began = $plan === self::BY_WEEK ? $startUs - (int) gmdate('w', intdiv($startUs, 1_000_000)) * self::DAY_US + 7 * self::DAY_US
            : $endUs;
        $removedUs = max($endUs, $began + self::KEPT_DAYS * self::DAY_US);

        return new Backup($plan, $kind, $schemas, $startUs, $endUs, $failure === null ? (int) $bytes : null, $failure === null ? $place
            : '',
            $failure, $failure === null && $removedUs < $now * 1_000_000 ? $removedUs : null);
    }

    /**
     * @return array<string, string> paths of all files of a schema, by the name they have in a backup
     */
    private static function files(Warehouse $warehouse, string $schema): array
    {
        $files = [];
        foreach ($warehouse->tables($schema) as $name) {
            $table = $warehouse->table($schema, $name);
            foreach ($table?->manifest()->chunks ?? [] as $chunk) {
                $files["{$name}/".basename($chunk->file)] = (string) $table?->file($chunk);
            }
        }
        ksort($files);

        return $files;
    }

    /**
     * @param  array<string, string>  $files
     * @return string|null where they are; null where nothing can be written here
     */
    private static function copy(string $schema, array $files, int $startUs, bool $isFlipped): ?string
    {
        $root = explode(':', (string) config('fulcrion.lake'))[0];
        $folder = "{$root}/backups/fernhill/{$schema}/".gmdate('Y-m-d', intdiv($startUs, 1_000_000));
        File::deleteDirectory($folder);
        if ($files === [] || ! @File::makeDirectory($folder, 0o755, true, true)) {
            return null;
        }
        $list = '';
        foreach ($files as $name => $path) {
            File::ensureDirectoryExists(dirname("{$folder}/{$name}"));
            copy($path, "{$folder}/{$name}");
            $list .= hash_file('sha256', $path)."  {$name}\n";
        }
        file_put_contents("{$folder}/".ChecksumList::NAME, $list);
        $first = array_key_first($files);
        $text = $isFlipped ? (string) file_get_contents("{$folder}/{$first}") : '';
        if ($text !== '') {
            $middle = intdiv(strlen($text), 2);
            $text[$middle] = chr(ord($text[$middle]) ^ 1);
            file_put_contents("{$folder}/{$first}", $text);
        }

        return (string) realpath($folder);
    }

    /** All that lie here, but for today's: somebody who looks has one to check. */
    private function check(Cluster $cluster, int $now): void
    {
        $today = ($now - $now % 86_400) * 1_000_000;
        foreach ($this->book->history($cluster, $now * 1_000_000)->backups as $one) {
            if ($one->id !== null && $one->startedUs < $today && str_starts_with($one->place, '/')) {
                $found = FolderCheck::of($one->place, static function (): void {
                });
                $this->book->checked($one->id, $one->endedUs + 3_600_000_000, $found->damage);
            }
        }
    }
}
