<?php

declare(strict_types=1);

namespace App\Limits\Http\Requests;

use App\Ledger\Models\Subscription;
use App\Limits\Application\LimitBook;
use Closure;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Text\TypedBytes;
use Fulcrion\Core\Text\TypedDuration;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Illuminate\Validation\Validator;
use InvalidArgumentException;

/**
 * What a form sends to LimitBookController::change(): how much, and what is done on the way there.
 */
class ChangeLimitRequest extends FormRequest
{
    private const PERCENT = 'regex:~^\s*\d{1,3}\s*%?\s*$~';

    private const MOST_MONEY = 1e9;

    private const MOST_EXECUTIONS = 1e12;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'amount' => ['required', 'string', 'max:40', function (string $field, mixed $value, Closure $fail): void {
                $measure = $this->measure();
                try {
                    $measure === null || ! is_string($value) || self::amount($measure, $value) > 0;
                } catch (InvalidArgumentException $error) {
                    $fail($error->getMessage());
                }
            }],
            'note' => ['nullable', 'string', self::PERCENT],
            'tell' => ['nullable', 'string', self::PERCENT],
            'hold' => ['nullable', 'string', self::PERCENT],
            'recipient' => ['nullable', 'email', 'max:190'],
            'webhook' => ['nullable', 'integer', Rule::exists(Subscription::class, 'id')->where('kind', 'webhook')],
            'ask' => ['nullable', 'string', 'max:190'],
        ];
    }

    public function withValidator(Validator $validator): void
    {
        $validator->after(function (Validator $validator): void {
            if ($validator->errors()->isEmpty() && $this->thresholds() === []) {
                $validator->errors()->add('hold', 'Say at which share something is to be done: note it, tell somebody or hold.');
            }
        });
    }

    protected function measure(): ?LimitMeasure
    {
        return app(LimitBook::class)->find((int) $this->route('limit'))?->limit->measure;
    }

    /**
     * @return list<Threshold> of two at the same share the stronger one, which does what the weaker one does as well
     */
    public function thresholds(): array
    {
        $thresholds = [];
        foreach (Act::cases() as $act) {
            $percent = preg_match('~\d+~', is_string($this->input($act->value)) ? $this->input($act->value) : '', $match) === 1
                ? (int) $match[0] : 0;
            if ($percent > 0) {
                $thresholds[$percent] = new Threshold($percent, $act);
            }
        }

        return array_values($thresholds);
    }

    /**
     * @return int in the units of the measure, above 0
     *
     * @throws InvalidArgumentException saying what can be typed
     */
    public static function amount(LimitMeasure $measure, string $text): int
    {
        return match ($measure) {
            LimitMeasure::Bytes => TypedBytes::of($text),
            LimitMeasure::Time => TypedDuration::us($text),
            LimitMeasure::Executions => self::number($text, self::MOST_EXECUTIONS, '~^\d{1,13}$~D',
                'A number of executions is whole, as 5000.'),
            LimitMeasure::Cost => self::number($text, self::MOST_MONEY, '~^\d{1,10}(\.\d{1,2})?$~D',
                'An amount of money is a number with a point, as 1200.50.', LimitMeasure::MONEY),
        };
    }

    private static function number(string $text, float $most, string $form, string $complaint, int $unit = 1): int
    {
        $number = preg_match($form, trim($text)) === 1 ? (float) trim($text) : 0.0;
        if ($number <= 0 || $number > $most) {
            throw new InvalidArgumentException($complaint);
        }

        return (int) round($number * $unit);
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'amount.required' => 'Say how much: 2 TiB, 10 h, 5000 or 120.50, as the measure is.',
            'note.*' => 'A share is a percentage, as 50.',
            'tell.*' => 'A share is a percentage, as 80.',
            'hold.*' => 'A share is a percentage, as 100.',
            'recipient.*' => 'Write an address, as ada@example.org, or leave it out.',
            'webhook.*' => 'Choose a webhook of the page Notifications, or none.',
            'ask.*' => 'A name or an address, of up to 190 letters.',
        ];
    }
}
