<?php

declare(strict_types=1);

namespace App\Settings\Console;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Settings\Application\SettingFindings;
use App\Settings\Application\SettingsReader;
use App\Settings\Application\SettingsStore;
use Illuminate\Console\Command;

final class ReadSettingsCommand extends Command
{
    protected $signature = 'settings:read';

    protected $description = 'Reads how hosts and servers are set and holds it against what is desired';

    public function handle(SettingsReader $reader, SettingFindings $findings, SettingsStore $store): int
    {
        $result = self::SUCCESS;
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            try {
                $changed = $reader->read($cluster, Clock::seconds());
                $findings->report($cluster);
                if ($changed !== null) {
                    $this->line("{$cluster->name}: {$changed} settings are otherwise than before.");
                }
            } catch (SourceError $error) {
                $this->error("{$cluster->name}: {$error->getMessage()}");
                $result = self::FAILURE;
            }
        }
        $store->prune(Clock::seconds());

        return $result;
    }
}
