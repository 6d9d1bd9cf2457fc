<?php

declare(strict_types=1);

namespace App\Settings;

use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\ProofBody;
use App\Metrics\Events\HostSettingsSent;
use App\Platform\Figures\TimeMarks;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Settings\Application\SettingChanges;
use App\Settings\Application\SettingFindings;
use App\Settings\Application\SettingsReader;
use App\Settings\Application\SettingsStore;
use Fulcrion\Core\Settings\SetStep;
use Fulcrion\Core\Settings\SettingCommand;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Event::listen(HostSettingsSent::class, SettingsReader::class);
        $this->callAfterResolving(TimeMarks::class, static fn (TimeMarks $marks) => $marks->register(
            (new SettingsStore())->marks(...), 'settings'));
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            SettingFindings::SOURCE,
            acts: 'settings.finding-acts',
            weighed: 'measured',
            home: static fn (Finding $finding): array => ['Settings', address('setting.index').'?'.http_build_query(['cluster' =>
                $finding->cluster->slug])],
        )));
        $this->callAfterResolving(ChangeKinds::class, static function (ChangeKinds $kinds): void {
            $kinds->register(new ChangeKind(
                SettingChanges::KIND,
                SettingChanges::class,
                ability: 'setting',
                measured: false,
                stepsTitle: 'What is set',
                proofTitle: 'Proof, read back',
                limitsTitle: 'What is to be known',
                address: static fn (Change $change): string => address('setting.index').'?'.http_build_query(['cluster' =>
                    $change->cluster->slug]),
                undoing: static fn (Change $change): string => 'Each setting is set as it was: '
                    .implode('; ', array_map(self::command(...), $change->sealed_inverse)).'.',
                shown: self::command(...),
            ));
            $kinds->registerBody(new ProofBody(
                SettingChanges::BODY,
                'settings.proof',
                static fn (ProofRecord $proof): string => $proof->holds ? 'every setting as expected' : 'not every setting as expected',
            ));
        });
    }

    private static function command(string $line): string
    {
        $step = SetStep::read($line);

        return SettingCommand::of($step->name, $step->value);
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'settings', 'Settings', 'setting.index', group: 'Machines', rank: 56)];
    }

    protected function abilities(): array
    {
        return ['setting' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('settings:read')->everyFifteenMinutes()->withoutOverlapping(30);
    }
}
