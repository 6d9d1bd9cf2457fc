<?php

declare(strict_types=1);

namespace App\Cost\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form sends to BillController::read().
 */
final class ReadBillRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'file' => ['required', 'file', 'max:65536'],
            'rate' => ['nullable', 'string', 'regex:~^(?=.*[1-9])\d{1,9}(\.\d{1,12})?$~', 'required_with:rate_on'],
            'rate_on' => ['nullable', 'date_format:Y-m-d', 'required_with:rate'],
            'in_place' => ['nullable', 'boolean'],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'file.required' => 'Choose the file of the bill, as CSV or Parquet.',
            'file.max' => 'A bill has 64 MiB at most. Split it by billing period.',
            'file.*' => 'The file did not arrive whole; it may be larger than this server accepts.',
            'rate.*' => 'A rate is a number above 0 with a point, as 0.92, and has its day.',
            'rate_on.*' => 'The day of a rate is as 2026-11-28, and has its rate.',
            'in_place.boolean' => 'In place of another is yes or no.',
        ];
    }
}
