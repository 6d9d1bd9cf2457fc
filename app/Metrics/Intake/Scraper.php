<?php

declare(strict_types=1);

namespace App\Metrics\Intake;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\Reachable;
use Fulcrion\Core\Metrics\Wire\OpenMetricsReader;
use GuzzleHttp\Psr7\FnStream;
use GuzzleHttp\Psr7\Utils;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Http;
use RuntimeException;
use stdClass;
use Throwable;

/**
 * Asks addresses for their metrics. Called is the address that was looked at, whatever its name means a moment later; a redirect is not
 * followed, and what is too long or takes too long is given up.
 */
final readonly class Scraper
{
    private const TIMEOUT_SECONDS = 5;

    private const MAX_BYTES = 10_485_760;

    private const ACCEPT = 'application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4;q=0.5,*/*;q=0.1';

    private const LONGEST_ERROR = 500;

    public function __construct(private MetricIntake $intake)
    {
    }

    /** @return int addresses that were asked */
    public function askAll(): int
    {
        $now = Clock::seconds();
        $asked = 0;
        foreach (DB::table('metric_scrapes')->whereRaw('asked_at + every_seconds <= ?', [$now])->orderBy('asked_at')->get() as $row) {
            // Only one of several servers asks, and one that hangs is not asked again at once.
            if (DB::table('metric_scrapes')->where('id', $row->id)->where('asked_at', $row->asked_at)->update(['asked_at' => $now]) === 1) {
                $this->ask(Scrape::read($row));
                $asked++;
            }
        }

        return $asked;
    }

    /** @return string|null what went wrong, which is kept too; null where nothing did */
    public function ask(Scrape $scrape): ?string
    {
        $cluster = Cluster::query()->find($scrape->clusterId);
        if ($cluster === null) {
            return null;
        }
        try {
            $result = $this->answer($cluster, $scrape);
            $error = $result->refused === 0 ? null : $result->words();
        } catch (Throwable $exception) {
            $error = $exception->getMessage();
        }
        $error = $error === null || $error === '' ? null : mb_strcut($error, 0, self::LONGEST_ERROR);
        DB::table('metric_scrapes')->where('id', $scrape->id)->update(['last_error' => $error, 'asked_at' => Clock::seconds()]);

        return $error;
    }

    private function answer(Cluster $cluster, Scrape $scrape): IntakeResult
    {
        $parts = (array) parse_url($scrape->address);
        $host = (string) ($parts['host'] ?? '');
        $port = (int) ($parts['port'] ?? (($parts['scheme'] ?? '') === 'https' ? 443 : 80));
        $address = Reachable::configured()->address($host);
        $sink = Utils::streamFor(Utils::tryFopen('php://temp', 'w+'));
        $isTooLong = false;
        $answer = Http::timeout(self::TIMEOUT_SECONDS)->connectTimeout(self::TIMEOUT_SECONDS)->withoutRedirecting()
            ->withHeaders(['Accept' => self::ACCEPT])->withOptions([
                'proxy' => '',
                'curl' => [CURLOPT_RESOLVE => [trim($host, '[]').":{$port}:{$address}"]],
                'sink' => FnStream::decorate($sink, ['write' => static function (string $bytes) use ($sink, &$isTooLong): int {
                    $isTooLong = $isTooLong || (int) $sink->getSize() + strlen($bytes) > self::MAX_BYTES;

                    return $isTooLong ? 0 : $sink->write($bytes);
                }]),
            ]);
        try {
            $response = $answer->get($scrape->address);
        } catch (Throwable $exception) {
            throw $isTooLong ? new RuntimeException('It sent more than 10 MiB and was given up. Nothing of it was taken.')
                : new RuntimeException('It did not answer within '.self::TIMEOUT_SECONDS.' s, or broke off.', 0, $exception);
        }
        if ($response->status() !== 200) {
            $why = $response->redirect() ? ', and redirects are not followed.' : '.';
            throw new RuntimeException("It answered {$response->status()}{$why}");
        }
        $isStandard = str_contains(strtolower($response->header('Content-Type')), 'openmetrics');
        $sink->rewind();
        $reception = OpenMetricsReader::read($sink->getContents(), $scrape->host, intdiv(Clock::microseconds(), 1_000), $isStandard);
        if ($reception->values === []) {
            $why = $reception->complaints === [] ? '.' : ": {$reception->complaints[0]}";
            throw new RuntimeException("No metric stands in its answer{$why}");
        }

        return $this->intake->take($cluster, $reception, SourceKind::Scrape, $scrape->host);
    }

    /**
     * @return list<Scrape>
     */
    public function all(): array
    {
        return array_values(DB::table('metric_scrapes')->orderBy('host')->get()
            ->map(static fn (stdClass $row): Scrape => Scrape::read($row))->all());
    }
}
