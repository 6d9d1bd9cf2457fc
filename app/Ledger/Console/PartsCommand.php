<?php

declare(strict_types=1);

namespace App\Ledger\Console;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Platform\Parts\PartBook;
use Illuminate\Console\Command;
use Illuminate\Support\Str;

/**
 * Parts of the application that do not work are found like anything else.
 */
final class PartsCommand extends Command
{
    public const SOURCE = 'own-parts';

    protected $signature = 'ledger:parts';

    protected $description = 'Looks whether all parts of the application work';

    public function handle(PartBook $parts, Findings $findings): int
    {
        $own = Cluster::query()->where('is_own', true)->first();
        if ($own === null) {
            return self::SUCCESS;
        }
        $reported = [];
        foreach ($parts->all() as $name => $part) {
            if ($part->mark !== 'calm') {
                $reported[] = new Reported('own-part', FindingSubject::item("part {$name}"), Severity::of($part->mark === 'act'),
                    Str::ucfirst($name)." of Fulcrion: {$part->said}",
                    [new Evidence('part', $name), new Evidence('what it says', $part->said)],
                    Weight::none(), '', urgent: $part->mark === 'act');
            }
        }
        $findings->reconcile($own, self::SOURCE, $reported);

        return self::SUCCESS;
    }
}
