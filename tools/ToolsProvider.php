<?php

declare(strict_types=1);

namespace Fulcrion\Tools;

use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\ServiceProvider;

/**
 * The demo world and the benches, where they are installed: a production server does without them.
 */
final class ToolsProvider extends ServiceProvider
{
    /** In the order they run in. */
    public const BENCHES = [
        Bench\ImportBench::class,
        Bench\FingerprintBench::class,
        Bench\StatementsBench::class,
        Bench\ScanBench::class,
        Bench\ExpressionsBench::class,
        Bench\DamageBench::class,
        Bench\WebLoadBench::class,
        Bench\PruneBench::class,
        Bench\ParseBench::class,
        Bench\AnswersBench::class,
        Bench\LayoutAdviceBench::class,
        Bench\AdviceMeasuredBench::class,
        Bench\LayoutProofBench::class,
        Bench\FooterBench::class,
        Bench\RollupChoiceBench::class,
        Bench\RollupAnswersBench::class,
        Bench\EncodingBench::class,
        Bench\TuningBench::class,
        Bench\JobScheduleBench::class,
        Bench\JobCurveBench::class,
        Bench\JobPredictBench::class,
        Bench\JobReplayBench::class,
        Bench\AccessDecideBench::class,
        Bench\AccessAttackBench::class,
        Bench\AccessDiffBench::class,
        Bench\AccessOracleBench::class,
        Bench\UsageAllocateBench::class,
        Bench\UsageForecastBench::class,
        Bench\LimitGuardBench::class,
        Bench\MetricsBench::class,
        Bench\MetricsReadBench::class,
        Bench\AgentBench::class,
        Bench\OutlierBench::class,
        Bench\AlertsBench::class,
        Bench\AlertQualityBench::class,
        Bench\UsageExploreBench::class,
        Bench\LiveBench::class,
        Bench\LiveAdviceBench::class,
    ];

    public function boot(): void
    {
        $this->commands([
            Console\BenchCommand::class,
            Console\DemoCommand::class,
            Console\DemoAccessCommand::class,
            Console\MutateCommand::class,
            Console\PulseCommand::class,
            Console\SignInHintCommand::class,
        ]);
        $this->callAfterResolving(Schedule::class, static function (Schedule $schedule): void {
            $schedule->command('demo:pulse')->everyFiveMinutes()->withoutOverlapping(10);
        });
    }
}
